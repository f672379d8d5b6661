package dev.brume.schedule;

import java.util.List;
import java.util.stream.Collectors;

/**
 * Thrown when the text of a schedule cannot be read; it carries every problem found, in order.
 *
 * @since 0.1.0
 */
public final class ScheduleSyntaxException extends IllegalArgumentException {
    private static final long serialVersionUID = 1L;

    private final String text;
    private final transient List<ScheduleProblem> problems;

    /**
     * Creates an exception.
     *
     * @param text as it was given
     * @param problems by place, at least one
     */
    public ScheduleSyntaxException(String text, List<ScheduleProblem> problems) {
        super(told(text, problems));
        this.text = text;
        this.problems = List.copyOf(problems);
    }

    /** The text need not stand in front of a sentence that quotes all of it, and an empty one is better named than quoted. */
    private static String told(String text, List<ScheduleProblem> problems) {
        String all = problems.stream().map(problem -> problem.within(text)).collect(Collectors.joining("; "));
        boolean quotes = problems.stream().allMatch(problem -> problem.isWhole(text));
        return quotes ? all : "'" + text + "': " + all;
    }

    static ScheduleSyntaxException of(String text, ScheduleProblem problem) {
        return new ScheduleSyntaxException(text, List.of(problem));
    }

    /** {@return the text as it was given} */
    public String text() {
        return text;
    }

    /** {@return every problem found, by place} */
    public List<ScheduleProblem> problems() {
        return problems == null ? List.of() : problems;
    }
}
