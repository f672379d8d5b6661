package dev.brume.benchmarks;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.LocalDateTime;
import java.util.UUID;
import javax.sql.DataSource;

/**
 * The least that a batch of runs costs by JDBC batches alone, for databases that take no arrays: insert them leased, move
 * the jobs' cursors, commit; delete them, write the ledger, commit.
 */
final class BatchCycle {
    private static final LocalDateTime EPOCH = LocalDateTime.of(2000, 1, 1, 0, 0);
    private static final String OWED = "planned_at, slot, origin, nominal, zone, version, lane, ready_at";

    private final DataSource source;
    private final int jobs;

    /** Goes on over several measurements: the ledger keeps what it has. */
    private long id;

    BatchCycle(DataSource source, int jobs) {
        this.source = source;
        this.jobs = jobs;
    }

    /** Adds the jobs. */
    void prepare() throws SQLException {
        try (Connection connection = source.getConnection();
                PreparedStatement insert = connection.prepareStatement(
                        "insert into brume_job (namespace, name, version, source, cursor_at, cap, lane)"
                                + " values ('main', ?, 1, 'raw', ?, 1, 'main')")) {
            connection.setAutoCommit(false);
            for (int i = 0; i < jobs; i++) {
                insert.setString(1, "job-" + i);
                insert.setObject(2, EPOCH);
                insert.addBatch();
            }
            insert.executeBatch();
            connection.commit();
        }
    }

    /** {@return how many runs a second one connection gets through} */
    double measure(int batch, double seconds) throws SQLException {
        String session = UUID.randomUUID().toString();
        try (Connection connection = source.getConnection();
                PreparedStatement insert = connection.prepareStatement("insert into brume_run (id, job_id, " + OWED
                        + ", state, priority, session_id, fence, attempt) values (?, ?, ?, '', 'SCHEDULE', '', 'UTC', 1,"
                        + " 'main', ?, 'RUNNING', 5, ?, ?, 1)");
                PreparedStatement move =
                        connection.prepareStatement("update brume_job set cursor_at = ?, next_at = ? where id = ?");
                PreparedStatement delete = connection.prepareStatement("delete from brume_run where id = ?");
                PreparedStatement line = connection.prepareStatement("insert into brume_ledger (run_id, job_id, " + OWED
                        + ", outcome, attempt, recorded_at) values (?, ?, ?, '', 'SCHEDULE', '', 'UTC', 1, 'main', ?,"
                        + " 'SUCCEEDED', 1, ?)")) {
            connection.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED);
            connection.setAutoCommit(false);
            long begin = System.nanoTime();
            long before = id;
            while (System.nanoTime() - begin < seconds * 1e9) {
                long first = id;
                for (; id < first + batch; id++) {
                    LocalDateTime planned = EPOCH.plusSeconds(id / jobs);
                    long job = 1 + id % jobs;
                    bind(insert, id, job, planned, planned, session, id);
                    bind(move, planned, planned, job);
                    bind(delete, id);
                    bind(line, id, job, planned, planned, planned);
                }
                insert.executeBatch();
                move.executeBatch();
                connection.commit();
                delete.executeBatch();
                line.executeBatch();
                connection.commit();
            }
            return (id - before) / ((System.nanoTime() - begin) / 1e9);
        }
    }

    private static void bind(PreparedStatement statement, Object... values) throws SQLException {
        for (int i = 0; i < values.length; i++) {
            statement.setObject(i + 1, values[i]);
        }
        statement.addBatch();
    }
}
