package dev.brume.internal.session;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.Failure;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.Change;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.AfterAttempt;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.Aftermath;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * Closes sessions that have lapsed and takes over what they held.
 *
 * <p>Closing is a transaction of its own: from then on the dead instance can lease nothing more, and
 * its completions are refused run by run as each is taken over. Any number of instances may do this at
 * once.
 */
public final class TakeOverDuty {
    private static final int MOST_NAMED = 50;

    private final Instance instance;

    public TakeOverDuty(Instance instance) {
        this.instance = instance;
    }

    /** Takes over everything from all lapsed sessions but its own; returns how many runs. */
    public int step() {
        Optional<UUID> own = instance.sessionId();
        List<SessionRow> lapsed = instance.transact(tx -> tx.sessions().lapsed());
        int all = 0;
        for (SessionRow session : lapsed) {
            if (!own.equals(Optional.of(session.id())) && close(session)) {
                all += takeAll(session);
            }
        }
        return all;
    }

    private boolean close(SessionRow seen) {
        return instance.transact(tx -> {
            Optional<SessionRow> session = tx.sessions().lock(seen.id());
            Instant now = tx.now();
            if (session.isEmpty()
                    || !session.get().lapsedAt(now) && !session.get().isFromTheFuture(now)
                    || session.get().state() != SessionRow.State.LAPSED && !instance.isSilent(session.get(), now)) {
                return false;
            }
            if (session.get().state() != SessionRow.State.LAPSED) {
                tx.sessions().mark(seen.id(), SessionRow.State.LAPSED);
                tx.addChanges(List.of(Change.of(
                        "LAPSED",
                        instance.settings().instance(),
                        instance.settings().host(),
                        "session " + seen.id() + " of " + seen.instance() + ", last renewed "
                                + session.get().renewedAt() + "; it held " + held(tx, seen.id()))));
            }
            return true;
        });
    }

    private static String held(Transaction tx, UUID session) {
        List<Long> runs = tx.leasedTo(session).keySet().stream().sorted().toList();
        if (runs.isEmpty()) {
            return "no run";
        }
        String some = runs.stream().limit(MOST_NAMED).map(String::valueOf).collect(Collectors.joining(", "));
        return (runs.size() == 1 ? "run " : "runs ")
                + some
                + (runs.size() > MOST_NAMED ? " and " + (runs.size() - MOST_NAMED) + " more" : "");
    }

    private int takeAll(SessionRow session) {
        int all = 0;
        while (true) {
            List<Runnable> tales = new ArrayList<>();
            int taken = instance.transact(tx -> {
                tales.clear();
                return takeBatch(tx, session, tales);
            });
            tales.forEach(Runnable::run);
            all += taken;
            if (taken == 0) {
                instance.transact(tx -> endIfEmpty(tx, session.id()));
                return all;
            }
        }
    }

    /** A run that someone still holds locked is left; the session stays lapsed until it owns nothing. */
    private static Void endIfEmpty(Transaction tx, UUID session) {
        if (tx.sessions().lock(session).isPresent() && tx.leasedTo(session).isEmpty()) {
            RenewDuty.endWhatOnlyItOwes(tx, session);
            tx.sessions().mark(session, SessionRow.State.ENDED);
        }
        return null;
    }

    private int takeBatch(Transaction tx, SessionRow session, List<Runnable> tales) {
        List<RunRow> rows = tx.lockRunsOf(session.id(), instance.settings().batch());
        if (rows.isEmpty()) {
            return 0;
        }
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.stream().map(RunRow::versionKey).toList());
        Instant now = tx.now();
        Aftermath aftermath = new Aftermath(tx, instance::isNotable);
        for (RunRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable("run " + row.id());
                continue;
            }
            Attempt lost = lost(row, session, now);
            AfterAttempt after = afterLoss(row, job, lost);
            aftermath.add(row, job, lost, after, Optional.empty(), Optional.empty());
            tales.add(() -> tell(row, job, session, after));
        }
        return aftermath.write().size();
    }

    private void tell(RunRow row, Job job, SessionRow session, AfterAttempt after) {
        boolean ends = after instanceof AfterAttempt.Ends;
        String text = ends
                ? "LOST with " + session.instance()
                : "from " + session.instance() + ", whose lease ended "
                        + session.leaseUntil().truncatedTo(ChronoUnit.MILLIS);
        instance.tell(
                ends ? Event.Kind.FAILED : Event.Kind.TAKEN_OVER,
                job.name(),
                row.id(),
                text,
                event -> Aftermath.facts(event, row, after));
    }

    /** A policy that throws costs its own run the next attempt, not the others their takeover. */
    private AfterAttempt afterLoss(RunRow row, Job job, Attempt lost) {
        if (row.needs().session().isPresent()) {
            return new AfterAttempt.Ends(Outcome.LOST, Optional.of(Reason.INSTANCE_DIED));
        }
        try {
            return AfterAttempt.decide(job, row.attempts(), lost, Failure.UNKNOWN, row.id());
        } catch (RuntimeException | StackOverflowError e) {
            instance.tellProblem("what follows the loss of run " + row.id() + " could not be decided; it is lost", e);
            return new AfterAttempt.Ends(Outcome.LOST, Optional.of(Reason.INSTANCE_DIED));
        }
    }

    private static Attempt lost(RunRow row, SessionRow session, Instant now) {
        RunRow.Lease lease = row.lease().orElseThrow();
        Attempt attempt =
                Attempt.begun(row.attempt(), session.instance(), lease.session(), lease.fence(), lease.since());
        String why = "instance " + session.instance() + " stopped renewing its lease";
        return attempt.ended(now, AttemptEnd.LOST, Optional.of(why));
    }
}
