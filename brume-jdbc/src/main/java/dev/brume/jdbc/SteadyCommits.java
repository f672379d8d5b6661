package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.function.UnaryOperator;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Commits to an H2 file every two seconds, by the process that owns it, whether or not anything else does.
 *
 * <p>The newest chunk of such a file is found along a chain that begins at the chunk named in its head. The head is written anew after twenty
 * chunks at the latest. H2 overwrites a chunk that nobody needs any more once it is 45 s old. If that chunk is still a link of the chain, and the process
 * is killed before the head is written, the last commits cannot be found. With a chunk every two seconds no link grows that old. Safe for
 * use by many threads.
 */
final class SteadyCommits implements AutoCloseable {
    /** Times twenty and one is less than the 45 s. */
    private static final Duration PACE = Duration.ofSeconds(2);

    private static final Logger LOG = LoggerFactory.getLogger(SteadyCommits.class);

    private final Connections source;
    private final WritingTurn turn = new WritingTurn(UnaryOperator.identity(), JdbcStore.LIMIT);
    private final ScheduledThreadPoolExecutor timer = new ScheduledThreadPoolExecutor(1, task -> {
        Thread thread = new Thread(task, "brume-database-commits");
        thread.setDaemon(true);
        return thread;
    });

    SteadyCommits(Connections source) {
        this.source = source;
        timer.scheduleWithFixedDelay(this::commit, PACE.toMillis(), PACE.toMillis(), TimeUnit.MILLISECONDS);
    }

    private void commit() {
        try (Connection connection = source.open()) {
            connection.setAutoCommit(false);
            turn.take(connection);
            try (Statement statement = connection.createStatement()) {
                statement.executeUpdate("merge into brume_turn key (id) values (1, current_timestamp)");
            }
            connection.commit();
        } catch (Throwable e) {
            // There are no tables yet, or others are long at it, who commit then; whatever it is, the next one comes
            // soon.
            LOG.debug("a steady commit failed", e);
        }
    }

    @Override
    public void close() {
        timer.shutdownNow();
    }
}
