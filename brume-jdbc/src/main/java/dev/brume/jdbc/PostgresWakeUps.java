package dev.brume.jdbc;

import dev.brume.spi.WakeUps;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.EnumSet;
import java.util.Optional;
import java.util.Set;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;

/** Listens on a connection of its own, which the server is asked nothing on meanwhile. */
final class PostgresWakeUps implements WakeUps {
    static final String ENDS = "ends";

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
    public Set<Call> await(Duration limit) {
        try {
            PGNotification[] calls = listening.getNotifications((int) limit.toMillis());
            Set<Call> heard = EnumSet.noneOf(Call.class);
            for (PGNotification call : calls == null ? new PGNotification[0] : calls) {
                heard.add(call.getParameter().equals(ENDS) ? Call.ENDS : Call.WORK);
            }
            return heard;
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
