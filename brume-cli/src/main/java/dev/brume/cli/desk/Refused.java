package dev.brume.cli.desk;

import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Thrown when a server answers that it does not do what it was asked. */
public final class Refused extends RuntimeException {
    private static final long serialVersionUID = 1L;

    private final int status;
    private final transient Seen problem;

    Refused(int status, Seen problem) {
        super(message(problem));
        this.status = status;
        this.problem = problem;
    }

    /** All that is wrong, each where it is. */
    private static String message(Seen problem) {
        List<Seen> errors = problem.has("errors") ? problem.list("errors") : List.of();
        String detail = problem.maybe("detail").orElse("it was refused without a word");
        return errors.size() < 2
                ? detail
                : Stream.concat(Stream.of(detail), errors.stream().map(Refused::line))
                        .collect(Collectors.joining("\n  "));
    }

    private static String line(Seen error) {
        String place = error.maybe("pointer")
                .filter(pointer -> !pointer.isEmpty())
                .or(() -> error.maybe("parameter"))
                .map(name -> name + ": ")
                .orElse("");
        return place + error.text("detail");
    }

    /** {@return the status of the answer, as HTTP has it} */
    public int status() {
        return status;
    }

    /** {@return what is said beside the sentence} */
    Optional<Object> about(String member) {
        return problem.raw(member);
    }
}
