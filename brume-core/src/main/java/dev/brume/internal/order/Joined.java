package dev.brume.internal.order;

import dev.brume.spi.CallerTransactions;
import java.sql.Connection;
import java.util.Optional;
import java.util.function.Consumer;

/**
 * The transaction of the caller's that an order is part of, if it is part of one.
 *
 * @param connection whose transaction
 * @param afterCommit has something done once that has committed, if anybody can tell
 */
public record Joined(Optional<Connection> connection, Consumer<Runnable> afterCommit) {
    /** The order commits by itself. */
    public static final Joined NONE = new Joined(Optional.empty(), action -> {});

    /** {@return the transaction of a connection, whose commit nobody tells of} */
    public static Joined of(Connection connection) {
        return new Joined(Optional.of(connection), action -> {});
    }

    /** {@return the transaction that the caller is in by what a framework knows} */
    public static Joined of(CallerTransactions callers) {
        return callers.current()
                .map(connection -> new Joined(Optional.of(connection), callers::afterCommit))
                .orElse(NONE);
    }

    void told(Runnable tale) {
        if (connection.isEmpty()) {
            tale.run();
        } else {
            afterCommit.accept(tale);
        }
    }
}
