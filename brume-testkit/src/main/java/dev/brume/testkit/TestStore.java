package dev.brume.testkit;

import dev.brume.BrumeException;
import dev.brume.GuardedWork;
import dev.brume.LeaseLostException;
import dev.brume.StoreException;
import dev.brume.history.LeaseKey;
import dev.brume.spi.Outlook;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * A store in memory that can be asked to leave one-offs alone, and that lends guarded transactions connections of the
 * application's database.
 */
final class TestStore extends WrappedStore {
    private final boolean collects;
    private final Optional<Callable<Connection>> connections;
    private final VirtualClock clock;
    private Instant awayUntil = Instant.MIN;

    TestStore(Store store, VirtualClock clock, boolean collects, Optional<Callable<Connection>> connections) {
        super(store);
        this.clock = clock;
        this.collects = collects;
        this.connections = connections;
    }

    /** Cannot be reached until then. */
    void away(Instant until) {
        awayUntil = until;
    }

    private void checkThere() {
        if (clock.wall().isBefore(awayUntil)) {
            throw new StoreException(
                    StoreException.Trouble.UNREACHABLE, "the test has the database away until " + awayUntil, null);
        }
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        checkThere();
        return super.transact(steps);
    }

    /** What the caller rolls back is not undone here: there is no transaction that both could be in. */
    @Override
    public <T> T join(Connection connection, Function<Transaction, T> steps) {
        return transact(steps);
    }

    @Override
    public void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) throws Exception {
        Callable<Connection> source = connections.orElseThrow(
                () -> new BrumeException(
                        "run.commit(...) needs a connection to hand over; give the test some: connections(dataSource::getConnection)"));
        try (Connection connection = source.call()) {
            connection.setAutoCommit(false);
            if (!transact(tx -> tx.holdLease(lease))) {
                throw new LeaseLostException("run " + lease.run() + " is no longer leased to this instance");
            }
            try {
                work.on(connection);
                connection.commit();
            } catch (Exception | Error e) {
                connection.rollback();
                throw e;
            }
            transact(tx -> tx.end(List.of(end.get())));
        }
    }

    @Override
    public Outlook outlook(Look look) {
        checkThere();
        Outlook seen = super.outlook(look);
        return collects
                ? new Outlook(
                        seen.now(),
                        seen.nextDue(),
                        seen.nextOfAny(),
                        Optional.empty(),
                        seen.nextOpening(),
                        seen.nextReady(),
                        seen.unsettled(),
                        seen.lapsed(),
                        seen.stops(),
                        seen.tooLate(),
                        seen.beyond(),
                        seen.endsAwaited())
                : seen;
    }
}
