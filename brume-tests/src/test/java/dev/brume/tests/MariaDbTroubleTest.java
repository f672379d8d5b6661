package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import dev.brume.history.JobRow;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mariadb.jdbc.MariaDbDataSource;

/** A real MariaDB that misbehaves, and what a pool gets back. */
class MariaDbTroubleTest {
    private final String database = Databases.freshName();
    private HikariDataSource pool;
    private JdbcStore store;

    @BeforeEach
    void open() {
        pool = Databases.mariadb(database);
        store = JdbcStore.builder(pool).limit(Duration.ofSeconds(1)).build();
        store.prepare();
        Brume.on(store)
                .takesPrograms()
                .instance("definer")
                .build()
                .define(Job.named("tides")
                        .every(Duration.ofSeconds(60))
                        .program("true")
                        .build());
    }

    @AfterEach
    void close() {
        pool.close();
    }

    private Map<JobName, JobRow> lock() {
        return store.transact(tx -> tx.lockJobs(List.of(JobName.parse("tides"))));
    }

    @Test
    void aFrozenHolderOfARowIsThrownOutByTheServer() throws Exception {
        CountDownLatch locked = new CountDownLatch(1);
        CountDownLatch done = new CountDownLatch(1);
        CompletableFuture<Object> frozen = Threads.supply(() -> store.transact(tx -> {
            tx.lockJobs(List.of(JobName.parse("tides")));
            locked.countDown();
            try {
                done.await();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
            return tx.now();
        }));
        locked.await();

        assertThat(lockAtLast()).hasSize(1);
        done.countDown();
        assertThatThrownBy(frozen::join).hasCauseInstanceOf(StoreException.class);
    }

    private Map<JobName, JobRow> lockAtLast() {
        for (int i = 0; i < 10; i++) {
            try {
                return lock();
            } catch (StoreException e) {
                assertThat(e.trouble()).isEqualTo(Trouble.CONFLICT);
            }
        }
        throw new AssertionError("the lock was never given up");
    }

    @Test
    void theApplicationGetsItsConnectionsBackAsTheyWere() throws SQLException {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(Databases.mariadbUrl(database));
        config.setMaximumPoolSize(1);
        config.setTransactionIsolation("TRANSACTION_SERIALIZABLE");
        config.setConnectionInitSql("set max_statement_time = 77, innodb_lock_wait_timeout = 33");
        try (HikariDataSource one = new HikariDataSource(config)) {
            JdbcStore mine = JdbcStore.on(one);
            String before = settings(one);
            mine.transact(tx -> tx.now());
            assertThatThrownBy(() -> mine.transact(tx -> {
                        throw new IllegalStateException("mine");
                    }))
                    .hasMessage("mine");
            assertThat(settings(one))
                    .isEqualTo(before)
                    .contains("SERIALIZABLE")
                    .contains("77")
                    .contains("33");
        }
    }

    private static String settings(HikariDataSource source) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement();
                var row = statement.executeQuery("select concat_ws(' ', @@tx_isolation, @@max_statement_time,"
                        + " @@innodb_lock_wait_timeout, @@idle_transaction_timeout, @@autocommit)")) {
            row.next();
            return row.getString(1);
        }
    }

    @Test
    void whoMayOnlyReadIsToldSo() throws SQLException {
        MariaDbDataSource reading =
                new MariaDbDataSource(Databases.mariadbUrl(database) + "&sessionVariables=tx_read_only=1");
        JdbcStore mine = JdbcStore.builder(reading).description("the archive").build();
        mine.prepare();

        assertThat(mine.history().jobs()).hasSize(1);
        assertThatThrownBy(() -> Brume.on(mine)
                        .takesPrograms()
                        .instance("definer")
                        .build()
                        .drop(JobName.parse("tides")))
                .isInstanceOfSatisfying(
                        StoreException.class, e -> assertThat(e.trouble()).isEqualTo(Trouble.NOT_WRITABLE))
                .hasMessageContaining("cannot write to the archive");
    }
}
