package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;

/**
 * How a transaction of ours behaves on a connection of someone's pool: READ COMMITTED, with limits on statements, on
 * waits for locks and on pauses, so that a frozen holder of row locks cannot stop the others. A wait for a lock is given up
 * before the statement that waits, since the one can be tried again and the other tells of a server that is too slow. The pool gets its
 * connection back as it was. Immutable and safe for use by many threads.
 */
final class Manners {
    /** The planner's idea of tables that churn is always wrong, so our own statements leave it little choice. */
    private static final Map<Dialect, String> PLANS =
            Map.of(Dialect.POSTGRESQL, "; set local jit = off; set local enable_seqscan = off");

    private static final String READ_COMMITTED = "set transaction isolation level read committed; ";
    private static final Duration SOCKET_SLACK = Duration.ofSeconds(2);

    private final Dialect dialect;
    private final boolean tcpTimeout;
    private final Optional<String> begin;
    private final Optional<WritingTurn> turn;
    private final int socketMillis;

    private Manners(
            Dialect dialect, boolean tcpTimeout, Optional<String> begin, Optional<WritingTurn> turn, Duration limit) {
        this.dialect = dialect;
        this.tcpTimeout = tcpTimeout;
        this.begin = begin;
        this.turn = turn;
        this.socketMillis = (int) limit.plus(SOCKET_SLACK).toMillis();
    }

    /**
     * {@return the manners for a database}
     *
     * @param turn to be taken by whoever writes, where there is such a thing
     * @param limit of one statement, one wait and one pause
     */
    static Manners of(Dialect dialect, Connection connection, Optional<WritingTurn> turn, Duration limit)
            throws SQLException {
        boolean tcpTimeout = dialect == Dialect.POSTGRESQL && knowsTcpTimeout(connection);
        Manners plain = new Manners(dialect, tcpTimeout, Optional.empty(), turn, limit).guarded(limit);
        return new Manners(
                dialect, tcpTimeout, plain.begin.map(text -> text + PLANS.getOrDefault(dialect, "")), turn, limit);
    }

    /** {@return the manners for a transaction in which someone else's statements run first, and ours after a turn was taken} */
    Manners guarded(Duration limit) {
        Optional<String> text = switch (dialect) {
            case POSTGRESQL -> Optional.of(postgres(limit));
            case MARIADB -> Optional.of(mariadb(limit));
            case H2 -> Optional.empty();
        };
        return new Manners(dialect, tcpTimeout, text, Optional.empty(), limit);
    }

    /** Bounds a transaction that somebody else has begun, as far as that can be done for it alone. */
    void bound(Connection connection) throws SQLException {
        if (dialect == Dialect.POSTGRESQL) {
            run(connection, begin.map(text -> text.replace(READ_COMMITTED, "")));
        }
    }

    private String postgres(Duration limit) {
        long millis = limit.toMillis();
        return READ_COMMITTED + "set local statement_timeout = " + millis
                + "; set local lock_timeout = " + millis * 2 / 3 + "; set local idle_in_transaction_session_timeout = "
                + millis
                + (tcpTimeout ? "; set local tcp_user_timeout = " + millis : "");
    }

    /** Servers on other systems refuse the setting. */
    private static boolean knowsTcpTimeout(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                var rows = statement.executeQuery("select version()")) {
            return rows.next() && rows.getString(1).toLowerCase(Locale.ROOT).contains("linux");
        }
    }

    /** Nothing there is for one transaction alone, so what was set before is kept beside and put back. */
    private static String mariadb(Duration limit) {
        long seconds = Math.max(1, limit.toSeconds());
        long lockSeconds = Math.max(1, limit.toSeconds() * 2 / 3);
        double statementSeconds = Math.max(limit.toMillis() / 1000.0, lockSeconds + 0.5);
        return "set @brume_1 = @@tx_isolation, @brume_2 = @@max_statement_time, @brume_3 = @@innodb_lock_wait_timeout,"
                + " @brume_4 = @@idle_transaction_timeout, tx_isolation = 'READ-COMMITTED', max_statement_time = "
                + statementSeconds + ", innodb_lock_wait_timeout = " + lockSeconds
                + ", idle_transaction_timeout = "
                + seconds;
    }

    private static final String MARIADB_END =
            "set tx_isolation = @brume_1, max_statement_time = @brume_2, innodb_lock_wait_timeout = @brume_3,"
                    + " idle_transaction_timeout = @brume_4";

    /** Whether isolation is set by the driver, and no limits are. */
    private boolean byDriver() {
        return dialect == Dialect.H2;
    }

    /** Begins a transaction. */
    Before begin(Connection connection) throws SQLException {
        OptionalInt isolation = byDriver() ? OptionalInt.of(connection.getTransactionIsolation()) : OptionalInt.empty();
        Look socket = new Look(connection, limitSocket(connection, socketMillis));
        Before before = new Before(connection, connection.getAutoCommit(), isolation, socket);
        try {
            if (byDriver()) {
                connection.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED);
            }
            connection.setAutoCommit(false);
            run(connection, begin);
            takeTurn(connection);
        } catch (SQLException e) {
            try {
                before.rollback();
            } catch (SQLException again) {
                e.addSuppressed(again);
            }
            throw e;
        }
        return before;
    }

    /** Takes the turn to write, where there is such a thing. */
    void takeTurn(Connection connection) throws SQLException {
        if (turn.isPresent()) {
            turn.get().take(connection);
        }
    }

    /** Begins a look outside any transaction, in which no answer may take longer than so long. */
    Look look(Connection connection, Duration most) throws SQLException {
        int millis = (int) most.plus(SOCKET_SLACK).toMillis();
        return new Look(connection, limitSocket(connection, millis));
    }

    private OptionalInt limitSocket(Connection connection, int socketMillis) throws SQLException {
        if (byDriver()) {
            return OptionalInt.empty();
        }
        try {
            int before = connection.getNetworkTimeout();
            if (before != 0 && before <= socketMillis) {
                return OptionalInt.empty();
            }
            connection.setNetworkTimeout(Runnable::run, socketMillis);
            return OptionalInt.of(before);
        } catch (SQLFeatureNotSupportedException e) {
            return OptionalInt.empty();
        }
    }

    private static void run(Connection connection, Optional<String> sql) throws SQLException {
        if (sql.isPresent()) {
            try (Statement statement = connection.createStatement()) {
                statement.execute(sql.get());
            }
        }
    }

    /** How a connection was before. */
    final class Before {
        private final Connection connection;
        private final boolean autoCommit;
        private final OptionalInt isolation;
        private final Look socket;

        private Before(Connection connection, boolean autoCommit, OptionalInt isolation, Look socket) {
            this.connection = connection;
            this.autoCommit = autoCommit;
            this.isolation = isolation;
            this.socket = socket;
        }

        void rollback() throws SQLException {
            connection.rollback();
            restore();
        }

        void restore() throws SQLException {
            run(connection, dialect == Dialect.MARIADB ? Optional.of(MARIADB_END) : Optional.empty());
            connection.setAutoCommit(autoCommit);
            if (isolation.isPresent()) {
                connection.setTransactionIsolation(isolation.getAsInt());
            }
            socket.close();
        }
    }

    /** How long the connection waited for an answer before. */
    record Look(Connection connection, OptionalInt socketMillisBefore) implements AutoCloseable {
        @Override
        public void close() throws SQLException {
            if (socketMillisBefore.isPresent()) {
                connection.setNetworkTimeout(Runnable::run, socketMillisBefore.getAsInt());
            }
        }
    }
}
