package dev.brume.benchmarks;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.atomic.AtomicLong;
import javax.sql.DataSource;

/**
 * The life of a recurring run in raw SQL on the engine's own tables, with nothing of an engine around
 * it: a batch is inserted already leased, its jobs' cursors are moved, commit; then it is deleted,
 * written to the ledger, commit. What only a client can know travels in arrays.
 */
final class RawCycle {
    private static final String INSERT =
            "insert into %1$s.brume_run (id, job_id, planned_at, origin, nominal, zone, version,"
                    + " state, lane, priority, ready_at, session_id, fence, leased_at, attempt) select id, job,"
                    + " timestamptz 'epoch' + planned * interval '1 microsecond', 'SCHEDULE', '2026-11-23T10:00', 'UTC', 1, 'RUNNING',"
                    + " 'main', 5, clock_timestamp(), ?, id, clock_timestamp(), 1"
                    + " from unnest(?::bigint[], ?::bigint[], ?::bigint[]) as g(id, job, planned)";
    private static final String MOVE = "update %1$s.brume_job j set cursor_at = timestamptz 'epoch' + g.planned *"
            + " interval '1 microsecond', next_at = timestamptz 'epoch' + (g.planned + 1000000) * interval '1 microsecond'"
            + " from unnest(?::bigint[], ?::bigint[]) as g(job, planned) where j.id = g.job";
    private static final String FINISH = "with gone as (delete from %1$s.brume_run where id = any (?) returning *)"
            + " insert into %1$s.brume_ledger (run_id, job_id, planned_at, slot, origin, nominal, zone, version, lane,"
            + " ready_at, outcome, attempt, instance, session_id, fence, started_at, ended_at, recorded_at)"
            + " select id, job_id, planned_at, slot, origin, nominal, zone, version, lane, ready_at, 'SUCCEEDED', attempt,"
            + " 'raw', session_id, fence, leased_at, clock_timestamp(), clock_timestamp() from gone";

    /** How many jobs the cycle goes round; their rows must be there. */
    static final int JOBS = 30_000;

    /** From when on occurrences are planned, in microseconds: lines lie in a month. */
    private static final long BEGIN = Instant.now().getEpochSecond() * 1_000_000;

    private final DataSource pool;
    private final String schema;
    private final AtomicLong ids = new AtomicLong(1);

    RawCycle(DataSource pool, String schema) {
        this.pool = pool;
        this.schema = schema;
    }

    /** {@return runs per second over some time, with so many connections and rows per transaction} */
    double measure(int connections, int batch, double seconds) {
        long begin = System.nanoTime();
        long until = begin + (long) (seconds * 1e9);
        List<CompletableFuture<Long>> workers = new ArrayList<>();
        for (int i = 0; i < connections; i++) {
            workers.add(CompletableFuture.supplyAsync(() -> cycle(batch, until), task -> new Thread(task).start()));
        }
        long runs = workers.stream().mapToLong(CompletableFuture::join).sum();
        return runs / ((System.nanoTime() - begin) / 1e9);
    }

    private long cycle(int batch, long until) {
        try (Connection connection = pool.getConnection()) {
            connection.setAutoCommit(false);
            long runs = 0;
            UUID session = UUID.randomUUID();
            try (PreparedStatement insert = connection.prepareStatement(String.format(INSERT, schema));
                    PreparedStatement move = connection.prepareStatement(String.format(MOVE, schema));
                    PreparedStatement finish = connection.prepareStatement(String.format(FINISH, schema))) {
                while (System.nanoTime() - until < 0) {
                    long first = ids.getAndAdd(batch);
                    Long[] all = new Long[batch];
                    Long[] jobs = new Long[batch];
                    Long[] planned = new Long[batch];
                    for (int i = 0; i < batch; i++) {
                        all[i] = first + i;
                        jobs[i] = 1 + (first + i) % JOBS;
                        planned[i] = BEGIN + (first + i) / JOBS * 1_000_000;
                    }
                    insert.setObject(1, session);
                    insert.setArray(2, connection.createArrayOf("int8", all));
                    insert.setArray(3, connection.createArrayOf("int8", jobs));
                    insert.setArray(4, connection.createArrayOf("int8", planned));
                    insert.executeUpdate();
                    move.setArray(1, connection.createArrayOf("int8", jobs));
                    move.setArray(2, connection.createArrayOf("int8", planned));
                    move.executeUpdate();
                    connection.commit();
                    finish.setArray(1, connection.createArrayOf("int8", all));
                    finish.executeUpdate();
                    connection.commit();
                    runs += batch;
                }
            }
            connection.setAutoCommit(true);
            return runs;
        } catch (SQLException e) {
            throw new CompletionException(e);
        }
    }
}
