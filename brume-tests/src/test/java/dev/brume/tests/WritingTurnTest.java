package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.jdbc.JdbcStore;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** On H2 one transaction writes at a time, until its commit has returned: no file, at whatever write, holds half of one. */
class WritingTurnTest {
    private static final JobName TIDES = JobName.parse("tides");
    private static final int CLERKS = 4;

    /** Chunks are kept for less than the usual 45 s, so that the file stays small, and for much longer than twenty commits take. */
    private static final String RETENTION = System.getProperty("brume.images.url", "RETENTION_TIME=2000;");

    private static final long SECONDS = Long.getLong("brume.images.seconds", 6);

    @TempDir
    private Path folder;

    private HikariDataSource pool;
    private JdbcStore store;

    /** A file at one moment, and the runs of which the orders had been acknowledged by then. */
    private record Image(Path file, Set<Long> acknowledged) {}

    @BeforeEach
    void open() {
        TappedFile.register();
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:tapped:" + folder.resolve("harbour")
                + ";WRITE_DELAY=0;DB_CLOSE_DELAY=-1;DB_CLOSE_ON_EXIT=FALSE;TRACE_LEVEL_FILE=0;"
                + RETENTION
                + "LOCK_TIMEOUT=200");
        pool = Databases.pool(source);
        store = JdbcStore.builder(pool)
                .description("H2")
                .limit(Duration.ofSeconds(5))
                .build();
        store.prepare();
    }

    @AfterEach
    void close() throws SQLException {
        TappedFile.tellNobody();
        try (Connection connection = pool.getDataSource().getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("shutdown immediately");
        } finally {
            pool.close();
        }
    }

    @Test
    void nobodyWritesWhileAnothersCommitIsOnItsWayToTheFile() throws Exception {
        CountDownLatch writes = new CountDownLatch(1);
        CountDownLatch go = new CountDownLatch(1);
        AtomicBoolean committing = new AtomicBoolean();
        TappedFile.tell(file -> {
            if (committing.get()) {
                writes.countDown();
                await(go);
            }
        });
        CompletableFuture<Long> first = Threads.supply(() -> store.transact(tx -> {
            long epoch = tx.sessions().raiseEpoch(tx.sessions().epoch());
            committing.set(true);
            return epoch;
        }));
        await(writes);
        AtomicBoolean begun = new AtomicBoolean();
        CompletableFuture<Long> second = Threads.supply(() -> store.transact(tx -> {
            begun.set(true);
            return tx.sessions().epoch();
        }));

        while (!begun.get() && waiting() == 0) {
            Thread.onSpinWait();
        }
        assertThat(begun).isFalse();
        assertThat(store.history().jobs()).as("who only reads waits for nobody").isEmpty();
        go.countDown();
        assertThat(second.get(20, TimeUnit.SECONDS)).isEqualTo(first.get(20, TimeUnit.SECONDS));
    }

    private long waiting() throws SQLException {
        return count("select count(*) from information_schema.sessions where executing_statement like 'alter table%'");
    }

    private long count(String sql) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getLong(1);
        }
    }

    @Test
    void whoFallsAsleepInItsTurnIsPutOut() throws Exception {
        JdbcStore hurried =
                JdbcStore.builder(pool).limit(Duration.ofMillis(300)).build();
        try (Connection sleeper = pool.getDataSource().getConnection();
                Statement statement = sleeper.createStatement()) {
            sleeper.setAutoCommit(false);
            statement.execute("alter table brume_turn set referential_integrity true");
            statement.execute("update brume_cluster set epoch = 99");

            long epoch = hurried.transact(tx -> tx.sessions().epoch());

            assertThat(epoch).isLessThan(99);
            assertThatThrownBy(sleeper::commit).isInstanceOf(SQLException.class);
        }
    }

    @Test
    void noImageOfTheFileHoldsHalfOfAnOrderOrAnEndOrLacksAnAcknowledgedOne() throws Exception {
        BlockingQueue<Image> images = new ArrayBlockingQueue<>(10);
        Set<Long> acknowledged = new HashSet<>();
        List<String> wrong = new ArrayList<>();
        AtomicBoolean over = new AtomicBoolean();
        int looked = 0;
        try (Brume brume =
                Brume.on(store).instance("quay-1").poll(Duration.ofMillis(50)).build()) {
            brume.handler("work", run -> {});
            brume.define(Job.named(TIDES)
                    .handler("work")
                    .ifBusy(IfBusy.alongside(100))
                    .build());
            brume.start();
            List<CompletableFuture<Void>> clerks = new ArrayList<>();
            for (int i = 0; i < CLERKS; i++) {
                clerks.add(Threads.run(() -> order(brume, acknowledged, over)));
            }
            TappedFile.tell(file -> keep(file, images, acknowledged));
            long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(SECONDS);
            for (; System.nanoTime() - until < 0; looked++) {
                look(images.poll(20, TimeUnit.SECONDS), wrong);
            }
            over.set(true);
            TappedFile.tellNobody();
            clerks.forEach(CompletableFuture::join);
        }
        System.out.println(looked + " images of the file, " + acknowledged.size() + " orders acknowledged");
        assertThat(looked).isPositive();
        assertThat(wrong).isEmpty();
    }

    private static void order(Brume brume, Set<Long> acknowledged, AtomicBoolean over) {
        while (!over.get()) {
            long run = brume.orders("anna", "new gauge").runNow(TIDES).id();
            synchronized (acknowledged) {
                acknowledged.add(run);
            }
        }
    }

    private void keep(Path file, BlockingQueue<Image> images, Set<Long> acknowledged) throws IOException {
        Set<Long> known;
        synchronized (acknowledged) {
            known = Set.copyOf(acknowledged);
        }
        if (images.remainingCapacity() > 0) {
            Path copy = folder.resolve("image-" + System.nanoTime() + ".mv.db");
            Files.copy(file, copy);
            if (!images.offer(new Image(copy, known))) {
                Files.delete(copy);
            }
        }
    }

    private static void look(Image image, List<String> wrong) throws Exception {
        String url = "jdbc:h2:file:" + image.file.toString().replace(".mv.db", "") + ";TRACE_LEVEL_FILE=0";
        List<Long> found = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(url, "", "");
                Statement statement = connection.createStatement()) {
            try (ResultSet rows =
                    statement.executeQuery("select id from brume_run union all select run_id from brume_ledger")) {
                while (rows.next()) {
                    found.add(rows.getLong(1));
                }
            }
            statement.execute("shutdown immediately");
        } finally {
            Files.deleteIfExists(image.file);
        }
        Set<Long> once = new HashSet<>();
        found.stream()
                .filter(run -> !once.add(run))
                .forEach(run -> wrong.add(image.file.getFileName() + ": run " + run + " is live and in the ledger"));
        image.acknowledged.stream()
                .filter(run -> !once.contains(run))
                .forEach(run ->
                        wrong.add(image.file.getFileName() + ": run " + run + " is neither live nor in the ledger"));
    }

    private static void await(CountDownLatch latch) {
        try {
            assertThat(latch.await(30, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }
}
