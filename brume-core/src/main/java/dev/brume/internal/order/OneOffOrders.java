package dev.brume.internal.order;

import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.internal.duty.Instance;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** Takes orders of one-offs, in a transaction of its own or in one of the caller's. */
public final class OneOffOrders {
    private final Instance instance;
    private final Edit edit;

    /** Creates the step, with the instance itself as who orders. */
    public OneOffOrders(Instance instance) {
        this(instance, Edit.by(instance.settings().instance()));
    }

    /** Creates the step for someone who gives orders. */
    public OneOffOrders(Instance instance, Edit edit) {
        this.instance = instance;
        this.edit = edit;
    }

    private record Target(long job, Instant now) {}

    /** The job and the clock are read apart from the caller's transaction, which may be old and must lock no job. */
    private Target target(JobName key) {
        return target(key, Optional.empty());
    }

    private Target target(JobName key, Optional<String> payload) {
        return instance.transact(tx -> {
            JobRow row = tx.findJobs(List.of(key)).get(key);
            if (row == null) {
                throw NotThereException.ofJob(key, "");
            }
            AllowanceRules.checkPayload(tx, key, payload);
            return new Target(row.id(), instance.trusted(tx.now()));
        });
    }

    /**
     * Orders a run.
     *
     * @param joined the caller's connection, whose transaction it becomes part of; empty for one of its own
     * @return false if the job has, or had, a one-off of that key
     * @throws IllegalArgumentException if there is no such job, or the key is empty or too long
     */
    public boolean add(OneOff wanted, Optional<Connection> joined) {
        OneOffOrder order = order(wanted);
        return told(wanted, order, joined, transact(joined, tx -> add(tx, wanted.job(), order)));
    }

    /**
     * Orders a run in the place of the one of its key, if that waits.
     *
     * @return false if a run has been made of that key
     */
    public boolean addOrMove(OneOff wanted, Optional<Connection> joined) {
        OneOffOrder order = order(wanted);
        return told(wanted, order, joined, transact(joined, tx -> {
            if (add(tx, wanted.job(), order)) {
                return true;
            }
            boolean moved = tx.oneOffs().remove(order.job(), order.key())
                    && tx.oneOffs().add(order);
            return logged(tx, moved, "ONE_OFF_MOVED", wanted.job(), order.key() + ", now due " + order.dueAt());
        }));
    }

    private OneOffOrder order(OneOff wanted) {
        Target target = target(wanted.job(), wanted.payload());
        Duration wait = wanted.delay();
        Instant at = wanted.instant()
                .orElseGet(() -> target.now()
                        .plus(
                                wait.isNegative()
                                        ? Duration.ZERO
                                        : Durations.checked("wait", wait, Duration.ZERO, Durations.LONGEST)));
        Moment.checked("at", at);
        return new OneOffOrder(
                target.job(), OneOffOrder.chosen(wanted.key()), at, wanted.payload(), edit.who(), Optional.empty());
    }

    private boolean told(OneOff wanted, OneOffOrder order, Optional<Connection> joined, boolean done) {
        if (done && joined.isEmpty()) {
            instance.callIfDueSoon(Optional.of(order.dueAt()));
            instance.tell(Event.Kind.DEFINED, wanted.job(), "one-off '" + order.key() + "', due " + order.dueAt());
        }
        return done;
    }

    /**
     * Gives a one-off that waits another instant.
     *
     * @return false if none of that key waits: there never was one, or a run has been made of it
     */
    public boolean move(JobName job, String key, Instant at, Optional<Connection> joined) {
        Moment.checked("at", at);
        long id = target(job).job();
        boolean moved = transact(
                joined,
                tx -> logged(tx, tx.oneOffs().move(id, key, at), "ONE_OFF_MOVED", job, key + ", now due " + at));
        if (moved && joined.isEmpty()) {
            instance.callIfDueSoon(Optional.of(at));
        }
        return moved;
    }

    /**
     * Drops a one-off that waits; its key is free again.
     *
     * @return false if none of that key waits
     */
    public boolean drop(JobName job, String key, Optional<Connection> joined) {
        long id = target(job).job();
        return transact(joined, tx -> logged(tx, tx.oneOffs().remove(id, key), "ONE_OFF_DROPPED", job, key));
    }

    private <T> T transact(Optional<Connection> joined, Function<Transaction, T> steps) {
        return joined.isPresent() ? instance.store().join(joined.get(), steps) : instance.transact(steps);
    }

    private boolean logged(Transaction tx, boolean done, String kind, JobName job, String text) {
        if (done) {
            tx.addChanges(List.of(new Change(
                    kind,
                    edit.who(),
                    instance.settings().host(),
                    Optional.of(job),
                    Optional.empty(),
                    Optional.empty(),
                    text,
                    edit.because())));
        }
        return done;
    }

    private boolean add(Transaction tx, JobName job, OneOffOrder oneOff) {
        return logged(tx, tx.oneOffs().add(oneOff), "ONE_OFF_ADDED", job, oneOff.key() + ", due " + oneOff.dueAt());
    }
}
