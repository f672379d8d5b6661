package dev.brume.internal.order;

import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.OneOffAnswer.Kind;
import dev.brume.OrderKeyTakenException;
import dev.brume.StoreException;
import dev.brume.history.JobRow;
import dev.brume.history.OneOffView;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.Calls;
import dev.brume.internal.text.Digests;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** Takes orders of one-offs, in a transaction of its own or in one of the caller's. */
public final class OneOffOrders {
    private final Instance instance;
    private final Orderer orderer;
    private final OnceOnly once;

    /** Creates the step, with the instance itself as who orders. */
    public OneOffOrders(Instance instance) {
        this(instance, Orderer.itself(instance), OnceOnly.not(Orderer.itself(instance)));
    }

    /** Creates the step for someone who gives orders, each of them once if they say so. */
    public OneOffOrders(Instance instance, Orderer orderer, OnceOnly once) {
        this.instance = instance;
        this.orderer = orderer;
        this.once = once;
    }

    /** What became of an order, and of which run it is. */
    public record Placed(OneOffAnswer.Kind kind, Optional<Long> run) {
        static Placed of(OneOffAnswer.Kind kind, OneOffOrder oneOff) {
            return new Placed(kind, Optional.of(oneOff.run()));
        }
    }

    private static final Placed NOT_THERE = new Placed(Kind.NOT_THERE, Optional.empty());
    private static final int BATCH = 1_000;
    private static final String OPERATION = "one-off";

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
     * Orders a run, if none of its key waits.
     *
     * @param joined the caller's transaction that it becomes part of, if it does
     * @throws IllegalArgumentException if there is no such job, or the key is empty or too long
     */
    public Placed add(OneOff wanted, Joined joined) {
        return place(wanted, joined, /* moves= */ false);
    }

    /** Orders a run, in the place of the one of its key if that waits. */
    public Placed addOrMove(OneOff wanted, Joined joined) {
        return place(wanted, joined, /* moves= */ true);
    }

    private Placed place(OneOff wanted, Joined joined, boolean moves) {
        Target target = target(wanted.job(), wanted.payload());
        Instant at = dueAt(wanted, target.now());
        Placed placed = transact(joined, tx -> {
            OneOffOrder order = new OneOffOrder(
                    tx.take(1).ids().get(0),
                    target.job(),
                    OneOffOrder.chosen(wanted.key()),
                    at,
                    wanted.payload(),
                    orderer.who(),
                    Optional.empty(),
                    wanted.exclusive(),
                    instance.traces().here());
            return requestKey(wanted)
                    .map(key -> once(tx, key, wanted, order, moves))
                    .orElseGet(() -> place(tx, wanted.job(), order, moves));
        });
        tell(wanted.job(), wanted.key(), at, placed, joined);
        return placed;
    }

    private static Instant dueAt(OneOff wanted, Instant now) {
        Duration wait = wanted.delay();
        Instant at = wanted.instant()
                .orElseGet(() -> now.plus(
                        wait.isNegative()
                                ? Duration.ZERO
                                : Durations.checked("wait", wait, Duration.ZERO, Durations.LONGEST)));
        // As exact as what it is compared with, which a database has kept.
        return Moment.checked("at", at).truncatedTo(ChronoUnit.MICROS);
    }

    /** The unique key decides between those who come first; who comes second locks the row and sees what there is. */
    private Placed place(Transaction tx, JobName job, OneOffOrder order, boolean moves) {
        if (tx.oneOffs().add(order)) {
            return logged(tx, Kind.ADDED, job, order);
        }
        OneOffRow there = tx.oneOffs()
                .find(order.job(), order.key())
                .orElseThrow(() -> new StoreException(
                        StoreException.Trouble.CONFLICT,
                        "one-off '" + order.key() + "' of " + job + " was dropped just as it was ordered",
                        /* cause= */ null));
        OneOffOrder known = there.oneOff();
        if (there.made()) {
            if (known.dueAt().equals(order.dueAt())) {
                return Placed.of(Kind.ALREADY_RAN, known);
            }
            tx.oneOffs().replace(known, order);
            return logged(tx, Kind.ADDED, job, order);
        }
        if (!moves) {
            return Placed.of(Kind.ALREADY_WAITS, known);
        }
        if (known.asksTheSameAs(order)) {
            return Placed.of(Kind.UNCHANGED, known);
        }
        OneOffOrder moved = order.as(known.run());
        tx.oneOffs().replace(known, moved);
        return logged(tx, Kind.MOVED, job, moved);
    }

    /** A key of the one-off's own is the same whoever orders it. */
    private Optional<RequestKey> requestKey(OneOff wanted) {
        String namespace = wanted.job().namespace();
        return wanted.orderKey()
                .map(key -> new RequestKey("", namespace, OPERATION, key))
                .or(() -> once.key().map(key -> new RequestKey(once.principal(), namespace, OPERATION, key)));
    }

    /**
     * The order key, what is done for it and the answer commit together. As long as nothing was done, since another of its key is in the way,
     * the request is without an answer, and is tried again when it is heard again.
     */
    private Placed once(Transaction tx, RequestKey key, OneOff wanted, OneOffOrder order, boolean moves) {
        String digest = Digests.sha256(
                wanted.toString(),
                wanted.payload().orElse(""),
                wanted.exclusive().toString());
        Optional<RequestRow> heard = tx.requests().begin(key, digest);
        if (heard.isPresent()) {
            if (!heard.get().digest().equals(digest)) {
                throw new OrderKeyTakenException(key.key(), heard.get().begunAt());
            }
            if (heard.get().answer().isPresent()) {
                return new Placed(Kind.ALREADY_ORDERED, heard.get().run());
            }
        }
        Placed placed = place(tx, wanted.job(), order, moves);
        if (placed.kind() == Kind.ADDED || placed.kind() == Kind.MOVED || placed.kind() == Kind.UNCHANGED) {
            tx.requests().done(key, placed.kind().name(), placed.run());
        }
        return placed;
    }

    private void tell(JobName job, String key, Instant at, Placed placed, Joined joined) {
        if (placed.kind() == Kind.ADDED || placed.kind() == Kind.MOVED) {
            joined.told(() -> {
                Calls.oneOff(instance, at);
                instance.tell(Event.Kind.DEFINED, job, "one-off '" + key + "', due " + at);
            });
        }
    }

    /** Gives a one-off that waits another instant. */
    public Placed move(JobName job, String key, Instant at, Joined joined) {
        Instant exact = Moment.checked("at", at).truncatedTo(ChronoUnit.MICROS);
        long id = target(job).job();
        Placed moved = transact(joined, tx -> {
            Optional<OneOffRow> there = tx.oneOffs().find(id, key);
            if (there.isEmpty() || there.get().made()) {
                return gone(there);
            }
            OneOffOrder known = there.get().oneOff();
            if (known.dueAt().equals(exact)) {
                return Placed.of(Kind.UNCHANGED, known);
            }
            tx.oneOffs().replace(known, known.at(exact));
            return logged(tx, Kind.MOVED, job, known.at(exact));
        });
        tell(job, key, exact, moved, joined);
        return moved;
    }

    private static Placed gone(Optional<OneOffRow> there) {
        return there.map(row -> Placed.of(Kind.ALREADY_RAN, row.oneOff())).orElse(NOT_THERE);
    }

    /** Drops a one-off that waits. */
    public Placed drop(JobName job, String key, Joined joined) {
        long id = target(job).job();
        return transact(joined, tx -> {
            Optional<OneOffRow> there = tx.oneOffs().find(id, key);
            if (there.isEmpty() || there.get().made()) {
                return gone(there);
            }
            tx.oneOffs().remove(there.get().oneOff());
            return logged(tx, Kind.DROPPED, job, there.get().oneOff());
        });
    }

    /** Drops those that wait and whose keys begin so; returns how many. */
    public int dropAll(JobName job, String prefix, Joined joined) {
        long id = target(job).job();
        int dropped = 0;
        int batch;
        do {
            batch = transact(joined, tx -> dropSome(tx, id, job, prefix));
            dropped += batch;
        } while (batch > 0);
        return dropped;
    }

    /** What was made a run or moved on since it was read is left; none is dropped only if none is left. */
    private int dropSome(Transaction tx, long id, JobName job, String prefix) {
        int dropped = 0;
        for (OneOffOrder seen : tx.oneOffs().waiting(id, prefix, BATCH)) {
            Optional<OneOffRow> there = tx.oneOffs().find(id, seen.key()).filter(row -> !row.made());
            if (there.isPresent()) {
                tx.oneOffs().remove(there.get().oneOff());
                logged(tx, Kind.DROPPED, job, there.get().oneOff());
                dropped++;
            }
        }
        return dropped;
    }

    /** Reads those that wait and whose keys begin so. */
    public List<OneOffView> waiting(JobName job, String prefix, int limit, Joined joined) {
        if (limit < 1) {
            throw new IllegalArgumentException("limit: " + limit + " is less than 1");
        }
        long id = target(job).job();
        return transact(joined, tx -> tx.oneOffs().waiting(id, prefix, limit)).stream()
                .map(order -> new OneOffRow(order, /* made= */ false).view(job))
                .toList();
    }

    private <T> T transact(Joined joined, Function<Transaction, T> steps) {
        return joined.connection().isPresent()
                ? instance.store().join(joined.connection().get(), steps)
                : instance.transact(steps);
    }

    private Placed logged(Transaction tx, Kind kind, JobName job, OneOffOrder oneOff) {
        String text = kind == Kind.DROPPED ? oneOff.key() : oneOff.key() + ", due " + oneOff.dueAt();
        tx.addChanges(List.of(orderer.change("ONE_OFF_" + kind, Optional.of(job), text)));
        return Placed.of(kind, oneOff);
    }
}
