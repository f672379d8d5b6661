package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeFalse;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.history.JobRow;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.NewJob;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import dev.brume.testkit.StoreContract;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What only databases with real concurrent transactions can show. */
abstract class JdbcContract extends StoreContract {
    private HikariDataSource pool;

    abstract HikariDataSource pool();

    abstract JdbcStore.Builder builder(HikariDataSource pool);

    @Override
    protected Store open() {
        pool = pool();
        return builder(pool).build();
    }

    /** Nothing may keep a connection. */
    @AfterEach
    void allConnectionsAreBack() {
        assertThat(pool.getHikariPoolMXBean().getActiveConnections()).isZero();
        pool.close();
    }

    /** Whether a transaction has to wait until another's is over, whatever the two are about. */
    boolean writesInTurn() {
        return false;
    }

    @Test
    void aDueJobThatAnotherPlannerHoldsIsPassedOver() throws Exception {
        assumeFalse(writesInTurn(), "no two hold anything at once");
        Job job =
                Job.named("tides").every(Duration.ofSeconds(1)).program("true").build();
        Instant past = store.history().now().minusSeconds(5);
        store.transact(tx -> tx.addJobs(List.of(NewJob.plain(job, "test", past, Optional.of(past)))));
        CountDownLatch locked = new CountDownLatch(1);
        CountDownLatch done = new CountDownLatch(1);
        CompletableFuture<List<JobRow>> holder = Threads.supply(() -> store.transact(tx -> {
            List<JobRow> rows = tx.lockDueJobs(Optional.empty(), Optional.empty(), Share.WHOLE, 10);
            locked.countDown();
            await(done);
            return rows;
        }));
        await(locked);

        assertThat(due(Optional.empty(), 10)).isEmpty();
        done.countDown();
        assertThat(holder.get(10, TimeUnit.SECONDS)).hasSize(1);
    }

    private List<JobRow> due(Optional<Instant> hint, int limit) {
        return store.transact(tx -> tx.lockDueJobs(hint, Optional.empty(), Share.WHOLE, limit));
    }

    private static void await(CountDownLatch latch) {
        try {
            assertThat(latch.await(10, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void severalStartersCreateTheSchemaOnce() {
        List<CompletableFuture<Void>> starters = new ArrayList<>();
        try (HikariDataSource fresh = pool()) {
            JdbcStore.Builder builder = builder(fresh);
            for (int i = 0; i < 4; i++) {
                starters.add(Threads.run(() -> builder.build().prepare()));
            }
            starters.forEach(CompletableFuture::join);
            assertThat(builder.build().history().jobs()).isEmpty();
        }
    }

    @Test
    void aNewerSchemaIsRefusedWithTheWayOut() throws SQLException {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("insert into " + table("brume_schema")
                    + " (version, checksum, applied_at) values (99, 'x', current_timestamp)");
        }

        assertThatThrownBy(() -> store.prepare())
                .isInstanceOfSatisfying(
                        StoreException.class, e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.SCHEMA))
                .hasMessageContaining("version 99")
                .hasMessageContaining("update the software");
    }

    @Test
    void aSchemaOfTheVeryNextVersionIsWorkedBeside() throws SQLException {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("insert into " + table("brume_schema") + " (version, checksum, applied_at)"
                    + " select max(version) + 1, 'of the future', current_timestamp from " + table("brume_schema"));
        }

        store.prepare();
        assertThat(store.history().jobs()).isEmpty();
    }

    @Test
    void aScriptAppliedInAnotherFormIsRefused() throws SQLException {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("update " + table("brume_schema") + " set checksum = 'other' where version = 1");
        }

        assertThatThrownBy(() -> store.prepare()).hasMessageContaining("V1").hasMessageContaining("another form");
    }

    abstract String table(String name);

    @Test
    void threeInstancesInOneProcessRunEveryOccurrenceOnce() throws InterruptedException {
        List<String> record = Collections.synchronizedList(new ArrayList<>());
        CountDownLatch enough = new CountDownLatch(60);
        List<Brume> instances = new ArrayList<>();
        for (int i = 0; i < 3; i++) {
            Brume brume = Brume.on(store)
                    .takesPrograms()
                    .instance("quay-" + i)
                    .workers(4)
                    .poll(Duration.ofMillis(200))
                    .build();
            brume.handler("note", run -> {
                record.add(run.job() + " " + run.planned());
                enough.countDown();
            });
            instances.add(brume);
        }
        for (int i = 0; i < 20; i++) {
            instances
                    .get(0)
                    .define(Job.named("tide-" + i)
                            .every(Duration.ofSeconds(1))
                            .handler("note")
                            .ifBusy(IfBusy.waiting(10))
                            .build());
        }
        instances.forEach(Brume::start);

        assertThat(enough.await(30, TimeUnit.SECONDS)).isTrue();
        for (Brume brume : instances) {
            assertThat(brume.stop(Duration.ofSeconds(10))).isTrue();
        }

        List<RunView> runs = store.history().runs(RunFilter.newest(10_000));
        List<String> ended = runs.stream()
                .filter(run -> run.outcome().equals(Optional.of(Outcome.SUCCEEDED)))
                .map(run -> run.job() + " " + run.owed().planned())
                .toList();
        assertThat(record).doesNotHaveDuplicates().containsExactlyInAnyOrderElementsOf(ended);
        assertThat(store.history().jobs())
                .allSatisfy(view -> assertThat(view.row().waiting()).isZero());
        List<JobRow> wrong = store.transact(tx -> tx.crowdedUnawares(100));
        assertThat(wrong).isEmpty();
        List<Settle> unsettled = store.transact(tx -> tx.takeUnsettled(tx.unsettled(100)));
        assertThat(unsettled).isEmpty();
    }
}
