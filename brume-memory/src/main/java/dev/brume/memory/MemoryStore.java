package dev.brume.memory;

import dev.brume.GuardedWork;
import dev.brume.LeaseLostException;
import dev.brume.OwnTransaction;
import dev.brume.history.History;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.Outlook;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * A store that lives as long as the process.
 *
 * <p>Transactions run one after the other, under one lock; a step that throws is undone. Instances in
 * the same process may share it. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class MemoryStore implements Store {
    private final InstantSource clock;
    private final Tables tables;

    /** Creates a store that goes by the machine's clock. */
    public MemoryStore() {
        this(InstantSource.system());
    }

    /** Creates a store that goes by a given clock, which stands for the database's. */
    public MemoryStore(InstantSource clock) {
        this(clock, Integer.MAX_VALUE, line -> {}, span -> {});
    }

    /**
     * Creates a store that keeps only so much of its ledger, and tells of all that is added.
     *
     * @param most how many lines are kept, at least 1; the oldest go first
     * @param lines is told of each line once it is committed
     * @param spans is told of each span once it is committed
     */
    public MemoryStore(InstantSource clock, int most, Consumer<LedgerLine> lines, Consumer<Span> spans) {
        if (most < 1) {
            throw new IllegalArgumentException("most: " + most + " is below 1");
        }
        this.clock = clock;
        this.tables = new Tables(
                new Tables.Ear() {
                    @Override
                    public void line(LedgerLine line) {
                        lines.accept(line);
                    }

                    @Override
                    public void span(Span span) {
                        spans.accept(span);
                    }
                },
                most);
    }

    Instant now() {
        return clock.instant().truncatedTo(ChronoUnit.MICROS);
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        synchronized (tables) {
            tables.begin();
            try {
                MemoryTransaction tx = new MemoryTransaction(tables, this::now);
                T result = steps.apply(tx);
                tx.finish();
                tables.commit();
                return result;
            } catch (RuntimeException | Error e) {
                tables.rollback();
                throw e;
            }
        }
    }

    @Override
    public <T> T join(Connection connection, Function<Transaction, T> steps) {
        throw new UnsupportedOperationException("the store in memory has no connections");
    }

    @Override
    public void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) {
        throw new UnsupportedOperationException("the store in memory has no connections");
    }

    /** The end is kept here, and what the work writes elsewhere: they commit one after the other. */
    @Override
    public void guarded(LeaseKey lease, Duration limit, OwnTransaction own, GuardedWork work, Supplier<RunEnd> end)
            throws Exception {
        own.carryOut(limit, connection -> {
            if (!transact(tx -> tx.holdLease(lease))) {
                throw new LeaseLostException("run " + lease.run() + " is no longer leased to this instance");
            }
            work.on(connection);
        });
        transact(tx -> tx.end(List.of(end.get())));
    }

    /** Everything that had been committed at some moment, as a standby would have it. */
    public static final class Copy {
        private final List<Map<?, ?>> tables;

        private Copy(List<Map<?, ?>> tables) {
            this.tables = tables;
        }
    }

    /** Copies everything that has been committed. */
    public Copy copy() {
        synchronized (tables) {
            return new Copy(tables.copy());
        }
    }

    /** Becomes a copy taken earlier, as if a standby had taken over that lacks what was committed since. */
    public void failOver(Copy copy) {
        synchronized (tables) {
            tables.become(copy.tables);
        }
    }

    @Override
    public Outlook outlook(Look look) {
        synchronized (tables) {
            Instant now = now();
            Optional<Instant> nextOfAny = tables.jobs.nextDue();
            Optional<Instant> nextDue = tables.jobs
                    .dueFrom(Instant.MIN)
                    .filter(tables.isIn(look.share()))
                    .findFirst()
                    .flatMap(job -> job.row().nextAt());
            Optional<Instant> nextReady = look.lanes().stream()
                    .flatMap(lane -> tables.runs
                            .oldestFirst(lane)
                            .filter(run -> look.ability().meets(run.needs()))
                            .limit(1))
                    .map(RunRow::readyAt)
                    .min(Instant::compareTo);
            Optional<Instant> nextOneOff = tables.oneOffs.values().stream()
                    .filter(stored -> !stored.made())
                    .map(stored -> stored.oneOff().dueAt())
                    .min(Instant::compareTo);
            Optional<Instant> nextOpening = tables.gates.values().stream()
                    .flatMap(gate -> gate.opensAt().stream())
                    .min(Instant::compareTo);
            return new Outlook(
                    now,
                    nextDue,
                    nextOfAny,
                    nextOneOff,
                    nextOpening,
                    nextReady,
                    look.wide() && !(tables.settles.isEmpty() && tables.looks.isEmpty()),
                    look.wide()
                            && tables.sessions.values().stream()
                                    .anyMatch(row -> row.lapsedAt(now) || row.isFromTheFuture(now)),
                    look.wide() && !tables.stops.isEmpty(),
                    look.wide() && tables.runs.tooLate(now).findAny().isPresent(),
                    /* beyond= */ false,
                    /* endsAwaited= */ false);
        }
    }

    @Override
    public History history() {
        return new MemoryHistory(tables, this::now);
    }

    @Override
    public void prepare() {
        // There is no schema.
    }

    @Override
    public String description() {
        return "memory";
    }

    @Override
    public void close() {
        // Nothing outlives it.
    }
}
