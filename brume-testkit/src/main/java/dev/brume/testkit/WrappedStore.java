package dev.brume.testkit;

import dev.brume.GuardedWork;
import dev.brume.OwnTransaction;
import dev.brume.history.History;
import dev.brume.history.LeaseKey;
import dev.brume.spi.Outlook;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.time.Duration;
import java.util.List;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * A store that passes everything on to another; to be extended where it is to do something else.
 *
 * @since 0.1.0
 */
public abstract class WrappedStore implements Store {
    private final Store store;

    /** Creates one around another. */
    protected WrappedStore(Store store) {
        this.store = store;
    }

    @Override
    public boolean locksRowsAlone() {
        return store.locksRowsAlone();
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        return store.transact(steps);
    }

    @Override
    public <T> T join(Connection connection, Function<Transaction, T> steps) {
        return store.join(connection, steps);
    }

    @Override
    public void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) throws Exception {
        store.guarded(lease, limit, work, end);
    }

    @Override
    public void guarded(LeaseKey lease, Duration limit, OwnTransaction own, GuardedWork work, Supplier<RunEnd> end)
            throws Exception {
        store.guarded(lease, limit, own, work, end);
    }

    @Override
    public Outlook outlook(Look look) {
        return store.outlook(look);
    }

    @Override
    public History history() {
        return store.history();
    }

    @Override
    public void prepare() {
        store.prepare();
    }

    @Override
    public List<String> concerns() {
        return store.concerns();
    }

    @Override
    public void forget() {
        store.forget();
    }

    @Override
    public String description() {
        return store.description();
    }

    @Override
    public void close() {
        store.close();
    }
}
