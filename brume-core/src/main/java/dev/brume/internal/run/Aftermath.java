package dev.brume.internal.run;

import dev.brume.Attempt;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.history.LeaseKey;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.internal.decide.AfterAttempt;
import dev.brume.spi.Ended;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;

/** Writes what becomes of leased runs after an attempt, in one transaction: some end, some are tried again. */
public final class Aftermath {
    private final Transaction tx;
    private final List<RunEnd> ends = new ArrayList<>();
    private final List<RunRelease> releases = new ArrayList<>();
    private final Set<Long> unsettled = new HashSet<>();
    private final Predicate<Job> notable;
    private Optional<Instant> now = Optional.empty();

    /**
     * Begins a batch.
     *
     * @param notable whether a success of a job is noted for those who are told
     */
    public Aftermath(Transaction tx, Predicate<Job> notable) {
        this.tx = tx;
        this.notable = notable;
    }

    /**
     * Adds a run.
     *
     * @param job the definition it ran under
     * @param last the attempt that has ended
     * @param after what was decided then
     * @param result what the work returned
     * @param output what it printed
     */
    public void add(
            RunRow run, Job job, Attempt last, AfterAttempt after, Optional<String> result, Optional<Output> output) {
        if (after instanceof AfterAttempt.Ends end) {
            boolean settles = !run.gates().isEmpty()
                    || !job.followUps().isEmpty()
                    || job.byEnds().isPresent();
            ends.add(new RunEnd(
                    run.leaseKey(),
                    run.owed().job(),
                    end.outcome(),
                    end.reason(),
                    last,
                    result,
                    output,
                    settles,
                    run.owed().planned(),
                    notable.test(job)));
        } else if (after instanceof AfterAttempt.TriesAgain again) {
            now = now.or(() -> Optional.of(tx.now()));
            releases.add(new RunRelease(
                    run.leaseKey(),
                    run.owed().job(),
                    again.state(),
                    now.get().plus(again.pause()),
                    AfterAttempt.with(run.attempts(), last),
                    output));
        }
    }

    /** Writes the batch; returns the leases that still held. */
    public Set<LeaseKey> write() {
        Set<LeaseKey> accepted = new HashSet<>();
        if (!ends.isEmpty()) {
            Ended ended = tx.end(ends);
            accepted.addAll(ended.accepted());
            unsettled.addAll(ended.unsettled());
        }
        if (!releases.isEmpty()) {
            accepted.addAll(tx.release(releases));
        }
        return accepted;
    }

    /** {@return the runs whose ends are still to be settled, once the batch is written} */
    Set<Long> unsettled() {
        return unsettled;
    }

    /** {@return an event with what programs are told of an attempt} */
    public static Event facts(Event event, RunRow run) {
        return event.withAttempt(run.attempt()).withPlanned(run.owed().planned());
    }

    /** {@return an event with what programs are told of an attempt's end} */
    public static Event facts(Event event, RunRow run, AfterAttempt after) {
        Event attempt = facts(event, run);
        if (after instanceof AfterAttempt.Ends end) {
            Event ended = attempt.withOutcome(end.outcome());
            return end.reason().map(ended::withReason).orElse(ended);
        }
        return attempt;
    }
}
