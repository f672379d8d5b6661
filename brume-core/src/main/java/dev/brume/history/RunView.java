package dev.brume.history;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunState;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A run to be looked at, live or ended.
 *
 * @param id the run
 * @param job its job's name
 * @param owed what it is owed to
 * @param version of the definition
 * @param lane whose workers
 * @param readyAt from when it could be claimed
 * @param state where it stands, empty once it has ended
 * @param progress how far it says that it is, if it runs and says so
 * @param outcome how it ended, empty while it is live
 * @param reason why
 * @param attempts all of them, oldest first, a running one included
 * @param payload what it was given
 * @param result what it returned
 * @param recordedAt when its end was put on record, empty while it is live
 * @param outputs what its attempts printed, by attempt; only where one run was asked for
 * @since 0.1.0
 */
public record RunView(
        long id,
        JobName job,
        RunRow.Owed owed,
        int version,
        String lane,
        Instant readyAt,
        Optional<RunState> state,
        Optional<Progress> progress,
        Optional<Outcome> outcome,
        Optional<String> reason,
        List<Attempt> attempts,
        Optional<String> payload,
        Optional<String> result,
        Optional<Instant> recordedAt,
        Map<Integer, Output> outputs) {

    /** {@return the same with what its attempts printed} */
    public RunView with(Map<Integer, Output> printed) {
        return as(job, printed);
    }

    /** {@return the same under another name of its job} */
    public RunView named(JobName other) {
        return other.equals(job) ? this : as(other, outputs);
    }

    private RunView as(JobName name, Map<Integer, Output> printed) {
        return new RunView(
                id,
                name,
                owed,
                version,
                lane,
                readyAt,
                state,
                progress,
                outcome,
                reason,
                attempts,
                payload,
                result,
                recordedAt,
                printed);
    }

    /** {@return the last attempt, running or ended} */
    public Optional<Attempt> lastAttempt() {
        return attempts.isEmpty() ? Optional.empty() : Optional.of(attempts.get(attempts.size() - 1));
    }
}
