package dev.brume.testkit;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.Needs;
import dev.brume.history.NewestRuns;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.VersionKey;
import dev.brume.history.Vitals;
import dev.brume.spi.Ability;
import dev.brume.spi.Claim;
import dev.brume.spi.Ended;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.NewJob;
import dev.brume.spi.Numbers;
import dev.brume.spi.Renewal;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.SessionLease;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;

/** What the parts of the store contract share. */
abstract class StoreFixture {

    static final LocalDateTime NOMINAL = LocalDateTime.parse("2026-03-29T00:30");

    /** What planned a run, and an attempt of it, in traces. */
    static final String PLANNING = "00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01";

    static final String SPAN = "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01";

    /** The store under test. */
    protected Store store;

    StoreFixture() {}

    /** Opens an empty store. */
    protected abstract Store open();

    @BeforeEach
    void openStore() {
        store = open();
        store.prepare();
    }

    @AfterEach
    void closeStore() {
        store.close();
    }

    Instant now() {
        return store.history().now();
    }

    static Job.Builder job(String name) {
        return Job.named("harbour/" + name)
                .cron("*/5 * * * *", "Atlantic/Azores")
                .program("true");
    }

    long define(Job job, Instant nextAt) {
        return store.transact(tx ->
                        tx.addJobs(List.of(NewJob.plain(job, "test", now().minusSeconds(60), Optional.of(nextAt)))))
                .get(0);
    }

    SessionRow session(String instance, Instant leaseUntil) {
        Instant opened = now();
        SessionRow row = new SessionRow(
                UUID.randomUUID(),
                instance,
                "host",
                7,
                List.of("main=4", "night=1"),
                List.of("crane", "north"),
                "1.0",
                "2026a",
                0,
                SessionRow.State.OPEN,
                opened,
                opened,
                leaseUntil,
                Optional.empty(),
                Optional.empty(),
                Duration.ZERO,
                Optional.empty());
        store.transact(tx -> {
            tx.sessions().add(row);
            return null;
        });
        return row;
    }

    SessionRow liveSession(String instance) {
        return session(instance, now().plusSeconds(600));
    }

    RunRow run(long job, Instant planned, RunState state, Optional<RunRow.Lease> lease, int priority) {
        Numbers numbers = store.transact(tx -> tx.take(1));
        RunRow.Owed owed = new RunRow.Owed(
                job,
                planned,
                "",
                Origin.SCHEDULE,
                NOMINAL,
                "Atlantic/Azores",
                Optional.of("AFTER_GAP"),
                Optional.empty(),
                Optional.empty());
        return new RunRow(
                numbers.ids().get(0),
                owed,
                1,
                state,
                "main",
                priority,
                Needs.NOTHING,
                planned,
                lease,
                List.of(),
                lease.isPresent() ? 1 : 0,
                Optional.of("{\"quay\":4}"),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                Optional.of(PLANNING + " " + SPAN));
    }

    RunRow add(RunRow run) {
        store.transact(tx -> {
            tx.addRuns(List.of(run));
            return null;
        });
        return run;
    }

    RunRow leased(long job, Instant planned, SessionRow session) {
        long fence = store.transact(tx -> tx.take(1)).fences().get(0);
        return add(run(job, planned, RunState.RUNNING, Optional.of(new RunRow.Lease(session.id(), fence, now())), 5));
    }

    List<RunRow> claim(SessionRow session, int limit, Set<String> handlers) {
        return claim(session, limit, Ability.ofHandlers(handlers), /* oldestFirst= */ false);
    }

    List<RunRow> claim(SessionRow session, int limit, Ability ability, boolean oldestFirst) {
        Claim claim = new Claim(session.id(), 0, "main", ability, Optional.empty(), limit, oldestFirst);
        return store.transact(tx -> tx.claim(claim));
    }

    Attempt ended(RunRow run, AttemptEnd end, Optional<String> error) {
        RunRow.Lease lease = run.lease().orElseThrow();
        return new Attempt(
                run.attempt(),
                "quay-1",
                lease.session(),
                lease.fence(),
                lease.since(),
                Optional.of(now()),
                Optional.of(end),
                error,
                Optional.of(SPAN));
    }

    Set<LeaseKey> end(LeaseKey lease, Attempt last) {
        RunEnd end = new RunEnd(
                lease,
                store.history().run(lease.run()).orElseThrow().owed().job(),
                last.end().filter(AttemptEnd.FAILED::equals).isPresent() ? Outcome.FAILED : Outcome.SUCCEEDED,
                Optional.empty(),
                last,
                Optional.of("done"),
                Optional.of(new Output("naïve 🌫 output\n", 18, 0)),
                /* settles= */ true,
                last.startedAt(),
                /* notable= */ true);
        return endAll(List.of(end)).accepted();
    }

    Set<LeaseKey> release(RunRow run, RunState state, Instant readyAt, Attempt last) {
        RunRelease release = new RunRelease(
                run.leaseKey(),
                run.owed().job(),
                state,
                readyAt,
                List.of(last),
                Optional.of(new Output("half done", 9, 0)));
        return store.transact(tx -> tx.release(List.of(release)));
    }

    List<JobRow> due(Optional<Instant> hint, int limit) {
        return store.transact(tx -> tx.lockDueJobs(hint, Optional.empty(), Share.WHOLE, limit));
    }

    Job definition(VersionKey key) {
        return Objects.requireNonNull(definitions(List.of(key)).get(key), key::toString);
    }

    Map<VersionKey, Job> definitions(List<VersionKey> keys) {
        return store.transact(tx -> tx.definitions(keys));
    }

    Set<LeaseKey> recorded(List<LeaseKey> leases) {
        return store.transact(tx -> tx.recorded(leases));
    }

    Ended endAll(List<RunEnd> ends) {
        return store.transact(tx -> tx.end(ends));
    }

    /** Ends a run that nothing follows for certain. */
    Ended endQuietly(RunRow run) {
        return endAll(List.of(new RunEnd(
                run.leaseKey(),
                run.owed().job(),
                Outcome.SUCCEEDED,
                Optional.empty(),
                ended(run, AttemptEnd.SUCCEEDED, Optional.empty()),
                Optional.empty(),
                Optional.empty(),
                /* settles= */ false,
                run.owed().planned(),
                /* notable= */ false)));
    }

    /** Writes which runs of a job are its newest. */
    void note(long job, NewestRuns runs) {
        JobRow row = lockOne(job);
        store.transact(tx -> {
            tx.advance(List.of(JobAdvance.of(row.with(runs))));
            return null;
        });
    }

    List<Settle> unsettled(Set<Long> runs, int limit) {
        return store.transact(tx -> tx.takeUnsettled(runs.isEmpty() ? tx.unsettled(limit) : runs));
    }

    Map<Long, Long> leasedTo(UUID session) {
        return store.transact(tx -> tx.leasedTo(session));
    }

    static SessionLease known(UUID session, Transaction tx) {
        return new SessionLease(
                session, tx.sessions().epoch(), Instant.EPOCH, tx.sessions().timeline());
    }

    /** How a process is that renews. */
    static final Vitals VITALS = new Vitals(61, 512, 0.42, 2);

    boolean holds(UUID session) {
        return store.transact(tx -> tx.sessions().hold(known(session, tx)).isPresent());
    }

    Optional<Renewal> renew(UUID session, Duration lease) {
        return store.transact(tx -> tx.sessions().renew(known(session, tx), lease, VITALS));
    }

    List<SessionRow> lapsed() {
        return store.transact(tx -> tx.sessions().lapsed());
    }

    int forget(Instant endedBefore) {
        return store.transact(tx -> tx.sessions().forget(endedBefore));
    }

    long epoch() {
        return store.transact(tx -> tx.sessions().epoch());
    }

    long raise(long known) {
        return store.transact(tx -> tx.sessions().raiseEpoch(known));
    }

    Instant past(int seconds) {
        return now().minusSeconds(seconds).truncatedTo(ChronoUnit.MICROS);
    }

    JobRow lockOne(long id) {
        return Objects.requireNonNull(
                store.<Map<Long, JobRow>>transact(tx -> tx.lockJobsById(List.of(id)))
                        .get(id),
                "no job " + id);
    }
}
