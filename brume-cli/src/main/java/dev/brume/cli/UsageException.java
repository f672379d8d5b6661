package dev.brume.cli;

import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.util.stream.Collectors;

/** Thrown when what the user gave is wrong; the message says what, and the way out. */
final class UsageException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    UsageException(String message) {
        super(message);
    }

    static String sentence(IllegalArgumentException wrong) {
        return wrong instanceof ScheduleSyntaxException syntax
                ? syntax.problems().stream()
                        .map(ScheduleProblem::sentenceWithoutField)
                        .collect(Collectors.joining("; "))
                : String.valueOf(wrong.getMessage());
    }

    /** What the library had to say of a value. */
    UsageException(IllegalArgumentException wrong) {
        super(sentence(wrong));
    }
}
