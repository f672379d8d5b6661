package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The turn to write on H2, one transaction at a time, held until its commit has returned.
 *
 * <p>A commit of H2 collects what it has to write map by map, while other transactions go on. What one of them finishes between two maps
 * gets into the file by half. If the process is killed before the next commit, that half stays. So every transaction of ours
 * begins by locking a table exclusively that is there for nothing else. H2 gives that lock back only after the commit, unlike the locks of rows, and
 * in the order in which it was asked for. Nobody reads that table, so readers wait for nobody. If the holder of the turn does nothing for
 * as long as a server would let a transaction idle, as a frozen process does, those who wait end its transaction. Immutable and safe for use by
 * many threads.
 */
final class WritingTurn {
    /** It only sets what is set already; what counts is the lock that it takes. */
    private static final String TAKE = "alter table brume_turn set referential_integrity true";

    /** The clock stands still within a transaction, so the time waited is added to it. */
    private static final String ASLEEP = """
            select l.session_id
            from information_schema.locks l
            join information_schema.sessions s on s.session_id = l.session_id
            where lower(l.table_name) = 'brume_turn'
            and l.lock_type = 'WRITE'
            and l.session_id <> session_id()
            and s.sleep_since <= dateadd(millisecond, ?, current_timestamp)""";

    private static final Logger LOG = LoggerFactory.getLogger(WritingTurn.class);
    private static final int LOCK_TIMEOUT = 50200;
    private static final int NO_RIGHT = 90096;
    private static final int NO_TABLE = 42102;
    private static final int NO_TABLE_NOR_ANY = 42104;
    private static final int TABLE_IS_THERE = 42101;

    /** Nobody reads it; see {@link SteadyCommits} for who writes it. */
    static final String TABLE =
            "create table if not exists brume_turn (id integer not null primary key, at timestamp(6) with time zone not null)";

    private final UnaryOperator<String> naming;
    private final Duration limit;

    /** @param limit how long to wait for the turn, and how long anyone may sleep in it */
    WritingTurn(UnaryOperator<String> naming, Duration limit) {
        this.naming = naming;
        this.limit = limit;
    }

    /** Waits for the turn, which ends with the connection's transaction. */
    void take(Connection connection) throws SQLException {
        long begun = System.nanoTime();
        while (true) {
            try (Statement statement = connection.createStatement()) {
                statement.execute(naming.apply(TAKE));
                return;
            } catch (SQLException e) {
                if (cannotBeTaken(e)) {
                    // Said at the start, as a concern; without turns it works too, short of a kill.
                    return;
                }
                Duration waited = Duration.ofNanos(System.nanoTime() - begun);
                boolean again = e.getErrorCode() == LOCK_TIMEOUT
                        && (putOut(asleep(connection, waited), connection) || waited.compareTo(limit) < 0);
                if (!again) {
                    throw e;
                }
            }
        }
    }

    /** {@return whether a user may take turns, tried on a connection that commits by itself} */
    boolean isAllowed(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(naming.apply(TAKE));
            return true;
        } catch (SQLException e) {
            if (e.getErrorCode() == LOCK_TIMEOUT) {
                return true;
            }
            if (cannotBeTaken(e)) {
                return false;
            }
            throw e;
        }
    }

    private static boolean cannotBeTaken(SQLException e) {
        return e.getErrorCode() == NO_RIGHT || e.getErrorCode() == NO_TABLE || e.getErrorCode() == NO_TABLE_NOR_ANY;
    }

    /** Makes the table, on a connection that commits by itself. */
    void prepare(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(naming.apply(TABLE));
        } catch (SQLException e) {
            if (e.getErrorCode() != TABLE_IS_THERE) {
                throw e;
            }
        }
    }

    private boolean putOut(List<Integer> sessions, Connection connection) throws SQLException {
        for (int session : sessions) {
            try (PreparedStatement statement = connection.prepareStatement("select abort_session(?)")) {
                statement.setInt(1, session);
                statement.executeQuery().close();
            }
            LOG.warn(
                    "ended a transaction that kept all others from writing and had done nothing for {} ms; its process may be frozen",
                    limit.toMillis());
        }
        return !sessions.isEmpty();
    }

    private List<Integer> asleep(Connection connection, Duration waited) throws SQLException {
        List<Integer> sessions = new ArrayList<>();
        try (PreparedStatement statement = connection.prepareStatement(ASLEEP)) {
            statement.setLong(1, waited.minus(limit).toMillis());
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    sessions.add(rows.getInt(1));
                }
            }
        }
        return sessions;
    }
}
