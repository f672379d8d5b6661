package dev.brume.jdbc;

import dev.brume.StoreException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A connection that is kept back for what must not wait until a pool has one free, such as renewals. It is taken from the pool when it is first needed, and again
 * after anything went wrong on it. Safe for use by many threads; one uses it at a time.
 */
final class ReservedConnection {
    private static final Logger LOG = LoggerFactory.getLogger(ReservedConnection.class);

    private final ReentrantLock use = new ReentrantLock();
    private @Nullable Connection connection;

    /** {@return what some work on the connection comes to, or what else there is to be done if another is using it} */
    <T> T use(Connections source, Function<Connection, T> work, Supplier<T> otherwise) throws SQLException {
        if (!use.tryLock()) {
            return otherwise.get();
        }
        boolean well = false;
        try {
            Connection kept = connection;
            if (kept == null) {
                kept = source.open();
                connection = kept;
            }
            T result = work.apply(kept);
            well = true;
            return result;
        } catch (StoreException e) {
            well = e.trouble() == StoreException.Trouble.CONFLICT;
            throw e;
        } finally {
            if (!well) {
                giveBack();
            }
            use.unlock();
        }
    }

    /** Gives it back, unless it is being used. */
    void release() {
        if (use.tryLock()) {
            try {
                giveBack();
            } finally {
                use.unlock();
            }
        }
    }

    private void giveBack() {
        if (connection != null) {
            try {
                connection.close();
            } catch (SQLException e) {
                LOG.debug("closing a connection that is of no use any more: {}", e.getMessage());
            }
            connection = null;
        }
    }
}
