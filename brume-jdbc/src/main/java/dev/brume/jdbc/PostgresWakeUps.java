package dev.brume.jdbc;

import dev.brume.spi.WakeUps;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Optional;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;

/** Listens on a connection of its own, which the server is asked nothing on meanwhile. */
final class PostgresWakeUps implements WakeUps {
    private final String description;
    private final Connection connection;
    private final PGConnection listening;

    private PostgresWakeUps(String description, Connection connection, PGConnection listening) {
        this.description = description;
        this.connection = connection;
        this.listening = listening;
    }

    /** Begins to listen; empty if the connection is not of the driver that can. */
    static Optional<WakeUps> on(Connection connection, String channel, String description) throws SQLException {
        if (!connection.isWrapperFor(PGConnection.class)) {
            return Optional.empty();
        }
        connection.setAutoCommit(true);
        try (Statement statement = connection.createStatement()) {
            statement.execute("listen " + channel);
        }
        return Optional.of(new PostgresWakeUps(description, connection, connection.unwrap(PGConnection.class)));
    }

    @Override
    public boolean await(Duration limit) {
        try {
            PGNotification[] calls = listening.getNotifications((int) limit.toMillis());
            return calls != null && calls.length > 0;
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        }
    }

    @Override
    public void close() {
        try (connection;
                Statement statement = connection.createStatement()) {
            statement.execute("unlisten *");
        } catch (SQLException e) {
            // The connection is broken, and its pool will find out.
            throw SqlErrors.wrap(description, e);
        }
    }
}
