package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.JobAccount;
import dev.brume.history.RunRow;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * How a run ended, for ever.
 *
 * @param run its id
 * @param owed what it was owed to
 * @param version of the definition it ran under
 * @param lane whose workers ran it
 * @param readyAt from when it could be claimed
 * @param outcome how it ended
 * @param reason why, where the outcome alone does not say
 * @param attempts all of them, oldest first
 * @param payload what it was given, without secrets
 * @param result what it returned
 * @since 0.1.0
 */
public record LedgerLine(
        long run,
        RunRow.Owed owed,
        int version,
        String lane,
        Instant readyAt,
        Outcome outcome,
        Optional<Reason> reason,
        List<Attempt> attempts,
        Optional<String> payload,
        Optional<String> result) {

    /** The line of a run that ended while nobody held it. */
    public static LedgerLine ofWaiting(RunRow run, Outcome outcome, Reason reason) {
        return new LedgerLine(
                run.id(),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                outcome,
                Optional.of(reason),
                run.attempts(),
                run.payloadOnRecord(),
                Optional.empty());
    }

    /** {@return the line of a run that ended while it was leased: its last attempt is the one of the end} */
    public static LedgerLine ofEnd(RunRow run, RunEnd end) {
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        attempts.add(end.last());
        return new LedgerLine(
                run.id(),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                end.outcome(),
                end.reason(),
                attempts,
                run.payloadOnRecord(),
                end.result());
    }

    /** {@return it as far as accounts need it} */
    public JobAccount.Line inAccount() {
        Optional<Attempt> last = attempts.stream().reduce((a, b) -> b);
        return new JobAccount.Line(
                run,
                owed.planned(),
                owed.slot(),
                owed.origin(),
                Optional.of(outcome),
                Optional.empty(),
                reason.map(Reason::name),
                attempts.stream().findFirst().map(Attempt::startedAt),
                last.flatMap(attempt -> attempt.endedAt().map(end -> Duration.between(attempt.startedAt(), end))),
                last.flatMap(Attempt::endedAt),
                outcome == Outcome.LOST || JobAccount.Line.wasTakenOver(attempts),
                last.map(Attempt::instance),
                owed.parent());
    }
}
