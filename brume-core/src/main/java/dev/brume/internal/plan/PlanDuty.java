package dev.brume.internal.plan;

import dev.brume.Job;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.document.Unreadable;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Leasing;
import dev.brume.internal.run.SetAside;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Share;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;

/**
 * Decides about occurrences that are due: one transaction for a batch of jobs.
 *
 * <p>The batch is what the free workers can start: more would only wait in the table and cost a claim
 * each, where it could have been leased in the same go.
 */
public final class PlanDuty {
    private static final int AT_LEAST = 50;
    private static final Duration PATIENCE = Duration.ofSeconds(10);
    private static final Duration SHORTEST_AHEAD = Duration.ofMillis(1);
    private static final Duration LONGEST_AHEAD = Duration.ofMillis(10);

    /** How long the jobs of other shares are left to those who plan them first. */
    public static final Duration HELP = Duration.ofMillis(250);

    private final Instance instance;
    private final SetAside<Long> aside = new SetAside<>();
    private Duration ahead = LONGEST_AHEAD.dividedBy(2);
    private Instant tried = Instant.MIN;

    public PlanDuty(Instance instance) {
        this.instance = instance;
    }

    /**
     * Plans one batch; returns how many jobs it was.
     *
     * @param hint nothing earlier is expected to be due
     */
    public int step(Optional<Instant> hint) {
        Optional<Instance.Session> session = instance.liveSession();
        if (session.isEmpty()) {
            return 0;
        }
        int limit = limit(session, hint);
        return limit > 0 ? plan(session.get(), new Which(hint, instance.trustedLimit(), instance.share()), limit) : 0;
    }

    /**
     * {@return how long before an instant to begin {@linkplain #onTheDot planning} what falls due then; zero if that has to wait}
     */
    public Duration ahead(Instant due) {
        boolean may = instance.time().canRest() && instance.store().locksRowsAlone() && !due.equals(tried);
        return may ? ahead : Duration.ZERO;
    }

    /**
     * Plans what falls due at an instant that is just to come, and commits at that instant: nobody sees anything of it before, and whoever changes
     * one of the jobs meanwhile waits for it, as for any planning. So all that is left to do at the instant is the commit.
     *
     * <p>What shares places with other jobs waits for the instant: others would have to wait for those places.
     *
     * @return how many jobs it was; 0 also if they are to be planned when they are due
     */
    public int onTheDot(Instant due) {
        tried = due;
        Optional<Instance.Session> session = instance.liveSession();
        int limit = limit(session, Optional.of(due));
        if (session.isEmpty() || limit == 0 || instance.trustedLimit().isPresent()) {
            return 0;
        }
        try {
            return planned(instance.transact(tx -> {
                long begun = instance.time().nanos();
                Batch batch = plan(tx, session.get(), tx.lockJobsDueAt(due, instance.share(), limit), Optional.of(due));
                if (!batch.planned.isEmpty()) {
                    adapt(Duration.ofNanos(instance.time().nanos() - begun));
                    awaitDue(tx, session.get(), due);
                }
                return batch;
            }));
        } catch (NotOnTheDot e) {
            return 0;
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            return 0;
        }
    }

    /** Follows how long it takes to prepare, with room for a hiccup. */
    private void adapt(Duration preparing) {
        Duration wanted = preparing.multipliedBy(2).plus(SHORTEST_AHEAD);
        Duration next = ahead.multipliedBy(7).plus(wanted).dividedBy(8);
        ahead = next.compareTo(LONGEST_AHEAD) > 0 ? LONGEST_AHEAD : next;
    }

    /**
     * By the database's clock, which is read at the end even if it should be past by what is known of it: that is an estimate. And under a lease that
     * goes on.
     */
    private void awaitDue(Transaction tx, Instance.Session session, Instant due) {
        Duration left = instance.until(due);
        do {
            if (left.compareTo(LONGEST_AHEAD.multipliedBy(2)) > 0) {
                throw new NotOnTheDot();
            }
            if (left.compareTo(Duration.ZERO) > 0) {
                instance.time().rest(left);
            }
            Instant clock = tx.sessions().hold(session.lease()).orElseThrow(NotOnTheDot::new);
            left = Duration.between(instance.trusted(clock), due);
        } while (left.compareTo(Duration.ZERO) > 0);
    }

    /** Rolls back what was planned ahead. */
    private static final class NotOnTheDot extends RuntimeException {
        private static final long serialVersionUID = 1L;

        NotOnTheDot() {
            super("", null, /* enableSuppression= */ false, /* writableStackTrace= */ false);
        }
    }

    /** Plans jobs of others too, which have been due for a while: those who should have are busy, hang, or are gone. */
    public int help(Instant overdueSince) {
        Optional<Instance.Session> session = instance.liveSession();
        int limit = limit(session, Optional.of(overdueSince));
        Instant until = instance.now().minus(HELP);
        return session.isPresent() && limit > 0
                ? plan(session.get(), new Which(Optional.of(overdueSince), Optional.of(until), Share.WHOLE), limit)
                : 0;
    }

    /** Which due jobs are to be planned; see {@link Transaction#lockDueJobs}. */
    private record Which(Optional<Instant> hint, Optional<Instant> until, Share share) {}

    private int limit(Optional<Instance.Session> session, Optional<Instant> due) {
        int room = Math.min(instance.settings().batch(), new Leasing(instance, session).room());
        return room == 0 && due.filter(this::isOverdue).isPresent() ? AT_LEAST : room;
    }

    /** With no free worker here, work is left to instances that have one, but not for ever. */
    private boolean isOverdue(Instant due) {
        return due.plus(PATIENCE).isBefore(instance.now());
    }

    /** One job that throws is no reason for the others not to be planned. */
    private int plan(Instance.Session session, Which which, int limit) {
        Batch batch;
        try {
            batch = planBatch(session, which, limit, rows -> {});
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e)) {
                throw e;
            }
            return oneByOne(session, which, limit);
        }
        return planned(batch);
    }

    private Batch planBatch(Instance.Session session, Which which, int limit, Consumer<List<JobRow>> whenLocked) {
        return instance.transact(tx -> {
            List<JobRow> rows = tx.lockDueJobs(which.hint, which.until, which.share, limit);
            whenLocked.accept(rows);
            return plan(tx, session, rows, Optional.empty());
        });
    }

    private int planned(Batch batch) {
        batch.writer.ifPresent(PlanWriter::committed);
        batch.turns.ifPresent(PauseTurns::committed);
        batch.planned.stream().filter(row -> aside.worked(row.id())).forEach(this::tellRecovered);
        return batch.planned.size();
    }

    private int oneByOne(Instance.Session session, Which which, int limit) {
        List<JobRow> locked = new ArrayList<>();
        for (int done = 0; done < limit; done++) {
            Optional<Batch> batch = Optional.empty();
            try {
                batch = Optional.of(planBatch(session, which, 1, rows -> {
                    locked.clear();
                    locked.addAll(rows);
                }));
            } catch (RuntimeException | StackOverflowError e) {
                if (!SetAside.isOfOne(e) || locked.isEmpty()) {
                    throw e;
                }
                setAside(locked.get(0), e);
            }
            if (batch.isPresent() && planned(batch.get()) == 0) {
                return done;
            }
        }
        return limit;
    }

    /** Its cursor stays, so that nothing it owes is forgotten; it is due again after a while. */
    private void setAside(JobRow seen, Throwable why) {
        SetAside.Verdict verdict = aside.failed(seen.id(), why, instance.time().nanos());
        instance.transact(tx -> {
            JobRow row = tx.lockJobsById(List.of(seen.id())).get(seen.id());
            if (row != null && !row.dropped()) {
                Instant again = tx.now().plus(verdict.pause());
                tx.advance(List.of(JobAdvance.of(row.due(Optional.of(again)))));
                if (verdict.isNews()) {
                    tx.addChanges(List.of(change("SET_ASIDE", row, verdict.reason())));
                }
            }
            return null;
        });
        instance.tellProblem(
                "job " + seen.name() + " cannot be planned and is set aside, the others go on: " + verdict.reason());
    }

    private void tellRecovered(JobRow row) {
        instance.transact(tx -> {
            tx.addChanges(List.of(change("WENT_ON", row, "it could be planned again")));
            return null;
        });
    }

    private Change change(String kind, JobRow row, String text) {
        return new Change(
                kind,
                instance.settings().instance(),
                instance.settings().host(),
                Optional.of(row.name()),
                Optional.empty(),
                Optional.empty(),
                text);
    }

    private static boolean concernsOthers(Job job) {
        return !job.gates().isEmpty() || job.onEachInstance();
    }

    private record Batch(List<JobRow> planned, Optional<PlanWriter> writer, Optional<PauseTurns> turns) {
        static final Batch NONE = new Batch(List.of(), Optional.empty(), Optional.empty());
    }

    private Batch plan(Transaction tx, Instance.Session session, List<JobRow> rows, Optional<Instant> ahead) {
        if (rows.isEmpty()) {
            return Batch.NONE;
        }
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.stream().map(JobRow::versionKey).toList());
        if (ahead.isPresent() && jobs.values().stream().anyMatch(PlanDuty::concernsOthers)) {
            return Batch.NONE;
        }
        Gates gates = GateLocks.of(tx, jobs.values());
        if (jobs.values().stream().anyMatch(Job::onEachInstance)) {
            tx.sessions().holdOpen();
        }
        Optional<Instant> clock = tx.sessions().hold(session.lease());
        if (clock.isEmpty()) {
            return Batch.NONE;
        }
        Instant read = instance.trusted(clock.get());
        Instant now = ahead.filter(read::isBefore).orElse(read);
        long nanos = instance.time().nanos() + Duration.between(read, now).toNanos();
        PlanWriter writer =
                new PlanWriter(instance, tx, new Leasing(instance, Optional.of(session)), gates, now, nanos);
        PauseTurns turns = new PauseTurns(instance, tx, now);
        List<JobRow> planned = new ArrayList<>();
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
            } else if (Unreadable.is(job)) {
                throw new IllegalStateException(job.description());
            } else {
                writer.add(row, job, turns.decide(job, row, gates));
                planned.add(row);
            }
        }
        turns.write();
        writer.write();
        return new Batch(planned, Optional.of(writer), Optional.of(turns));
    }
}
