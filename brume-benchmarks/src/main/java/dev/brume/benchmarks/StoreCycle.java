package dev.brume.benchmarks;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.RunRow;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.Ability;
import dev.brume.spi.Claim;
import dev.brume.spi.Ended;
import dev.brume.spi.NewJob;
import dev.brume.spi.Numbers;
import dev.brume.spi.RunEnd;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/** Adds, claims and ends runs through the store, and settles them where that is to be done, as fast as one thread can. */
final class StoreCycle {
    private static final int BATCH = 100;

    private final JdbcStore store;
    private final long job;
    private final UUID session = UUID.randomUUID();
    private long second;

    StoreCycle(JdbcStore store) {
        this.store = store;
        Instant now = store.history().now();
        Job definition =
                Job.named("tides").cron("0 0 1 1 *", "UTC").program("true").build();
        job = store.transact(tx -> tx.addJobs(List.of(NewJob.plain(definition, "bench", now, Optional.empty()))))
                .get(0);
    }

    /** {@return how many runs a second} */
    double runsPerSecond(double seconds) {
        long begin = System.nanoTime();
        long done = 0;
        Optional<Instant> hint = Optional.empty();
        while (System.nanoTime() - begin < seconds * 1e9) {
            hint = Optional.of(turn(hint));
            done += BATCH;
        }
        return done / ((System.nanoTime() - begin) / 1e9);
    }

    private Instant turn(Optional<Instant> hint) {
        Instant ready = store.history().now();
        store.transact(tx -> {
            Numbers numbers = tx.take(BATCH);
            List<RunRow> runs = new ArrayList<>();
            for (long id : numbers.ids()) {
                runs.add(run(id, ready));
            }
            tx.addRuns(runs);
            return runs;
        });
        List<RunRow> claimed = store.transact(
                tx -> tx.claim(new Claim(session, 0, "main", Ability.NONE, hint, BATCH, /* oldestFirst= */ false)));
        Ended ended =
                store.transact(tx -> tx.end(claimed.stream().map(this::end).toList()));
        if (!ended.unsettled().isEmpty()) {
            store.transact(tx -> tx.takeUnsettled(ended.unsettled()));
        }
        return ready.minus(1, ChronoUnit.SECONDS);
    }

    private RunRow run(long id, Instant ready) {
        Instant planned = Instant.parse("2026-01-01T00:00:00Z").plusSeconds(second++);
        RunRow.Owed owed = RunRow.Owed.scheduled(job, planned, ZoneOffset.UTC);
        return RunRow.planned(id, owed).moved(RunState.PLANNED, ready, Optional.empty(), List.of(), 0);
    }

    private RunEnd end(RunRow run) {
        RunRow.Lease lease = run.lease().orElseThrow();
        Attempt attempt = Attempt.begun(run.attempt(), "bench", lease.session(), lease.fence(), lease.since())
                .ended(lease.since(), AttemptEnd.SUCCEEDED, Optional.empty());
        return new RunEnd(
                run.leaseKey(),
                job,
                Outcome.SUCCEEDED,
                Optional.empty(),
                attempt,
                Optional.empty(),
                Optional.empty(),
                /* settles= */ false,
                run.owed().planned(),
                /* notable= */ false);
    }
}
