package dev.brume.testkit;

import dev.brume.Attempt;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import java.time.Instant;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.stream.Collectors;

/**
 * What is on record, to be asserted on. Each assertion looks at all of it and returns it again; one that fails says what is
 * there instead. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class LedgerAssert {
    private final String subject;
    private final List<RunView> runs;
    private final List<SpanView> spans;

    LedgerAssert(String subject, List<RunView> runs, List<SpanView> spans) {
        this.subject = subject;
        this.runs = runs;
        this.spans = spans;
    }

    /** {@return the runs, live ones and ended ones, by their planned times} */
    public List<RunView> runs() {
        return runs;
    }

    /** Asserts how many runs succeeded. */
    public LedgerAssert succeeded(int count) {
        return count(Outcome.SUCCEEDED, count);
    }

    /** Asserts how many runs failed. */
    public LedgerAssert failed(int count) {
        return count(Outcome.FAILED, count);
    }

    /** Asserts how many runs ended in a way. */
    public LedgerAssert count(Outcome outcome, int count) {
        return check(
                count,
                outcome.name(),
                run -> run.outcome().filter(outcome::equals).isPresent());
    }

    /** Asserts how many occurrences were skipped for a reason. */
    public LedgerAssert skipped(Reason reason, int count) {
        return check(
                count,
                "SKIPPED " + reason,
                run -> run.outcome().filter(Outcome.SKIPPED::equals).isPresent()
                        && run.reason().filter(reason.name()::equals).isPresent());
    }

    /** Asserts how many runs have not ended. */
    public LedgerAssert live(int count) {
        return check(count, "live", run -> run.outcome().isEmpty());
    }

    private LedgerAssert check(int expected, String what, Predicate<RunView> condition) {
        long found = runs.stream().filter(condition).count();
        if (found != expected) {
            throw failure("expected " + expected + " " + what + ", found " + found);
        }
        return this;
    }

    /** Asserts how many occurrences were passed over together, in spans. */
    public LedgerAssert passedOver(long count) {
        long found = spans.stream().mapToLong(span -> span.span().count()).sum();
        if (found != count) {
            throw failure("expected " + count + " occurrences passed over, found " + found);
        }
        return this;
    }

    /** Asserts for which instants there is a run or a line, in their order. */
    public LedgerAssert planned(Instant... instants) {
        List<Instant> found = runs.stream().map(run -> run.owed().planned()).toList();
        if (!found.equals(List.of(instants))) {
            throw failure("expected runs planned " + List.of(instants) + ", found " + found);
        }
        return this;
    }

    /** Asserts what the run returned that ended last; of several at the same time, the one planned last. */
    public LedgerAssert lastResult(String result) {
        Optional<RunView> last = runs.stream()
                .filter(run -> run.outcome().isPresent())
                .reduce((a, b) -> endOf(b).isBefore(endOf(a)) ? a : b);
        String found = last.flatMap(RunView::result).orElse(null);
        if (!Objects.equals(found, result)) {
            throw failure("expected the result '" + result + "', found '" + found + "'");
        }
        return this;
    }

    private static Instant endOf(RunView run) {
        return run.lastAttempt()
                .flatMap(Attempt::endedAt)
                .orElseGet(() -> run.owed().planned());
    }

    private AssertionError failure(String what) {
        String lines = runs.stream().map(LedgerAssert::line).collect(Collectors.joining("\n  ", "\n  ", ""));
        String over = spans.stream()
                .map(span -> "\n  " + span.job() + "  " + span.span().reason() + "  "
                        + span.span().count() + " passed over, " + span.span().first() + " to "
                        + span.span().last())
                .collect(Collectors.joining());
        return new AssertionError(
                "ledger of " + subject + ": " + what + (runs.isEmpty() ? "; nothing is there" : lines) + over);
    }

    private static String line(RunView run) {
        String end = run.outcome()
                .map(Enum::name)
                .or(() -> run.state().map(Enum::name))
                .orElse("");
        String why = run.reason().map(reason -> " " + reason).orElse("");
        String error = run.lastAttempt()
                .flatMap(Attempt::error)
                .map(text -> ": " + text.lines().findFirst().orElse(""))
                .orElse("");
        return run.job() + " #" + run.id() + "  planned " + run.owed().planned() + "  " + end + why + error;
    }

    @Override
    public String toString() {
        return String.valueOf(failure("as it stands").getMessage());
    }
}
