package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.StopReason;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.jdbc.JdbcStore;
import dev.brume.tests.chaos.TcpProxy;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Connections that hang, and pools that are used up, cost nobody a lease without its being told in time. */
@Tag("long")
class HangingDatabaseTest {
    private static final Duration LEASE = Duration.ofSeconds(2);
    /** Long enough that a busy machine alone does not cost it, short enough that starving it would. */
    private static final Duration PATIENT_LEASE = Duration.ofSeconds(9);

    private static final JobName SURVEY = JobName.parse("survey");
    private static final Pattern PORT = Pattern.compile("(//[^:/]*:)(\\d+)/");

    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();

    private Event await(Event.Kind kind) throws InterruptedException {
        for (Event event = events.poll(200, TimeUnit.SECONDS);
                event != null;
                event = events.poll(200, TimeUnit.SECONDS)) {
            if (event.kind() == kind) {
                return event;
            }
        }
        throw new AssertionError("no " + kind + " came");
    }

    @ParameterizedTest
    @EnumSource(value = Db.class, names = "H2", mode = EnumSource.Mode.EXCLUDE)
    void whatASwallowedConnectionHoldsUpIsToldAndGoesOnAfterwards(Db db) throws Exception {
        String name = Databases.freshName();
        String url = db == Db.POSTGRESQL ? Databases.postgresUrl() : Databases.mariadbUrl(name);
        Matcher port = PORT.matcher(url);
        assertThat(port.find()).isTrue();
        try (TcpProxy proxy = new TcpProxy(Integer.parseInt(port.group(2)));
                HikariDataSource pool = pool(port.replaceFirst("$1" + proxy.port() + "/"), 6)) {
            JdbcStore.Builder store = JdbcStore.builder(pool);
            Brume brume = Brume.on((db == Db.POSTGRESQL ? store.schema(name) : store).build())
                    .instance("quay-1")
                    .lease(LEASE)
                    .engineListener(events::add)
                    .build();
            BlockingQueue<StopReason> told = new LinkedBlockingQueue<>();
            CountDownLatch begun = new CountDownLatch(1);
            brume.handler("survey", run -> {
                begun.countDown();
                try {
                    new CountDownLatch(1).await();
                } catch (InterruptedException ended) {
                    told.add(run.stopAsked().orElseThrow());
                }
            });
            brume.define(Job.named(SURVEY).handler("survey").build());
            brume.start();
            brume.oneOffs().add(OneOff.of(SURVEY, "once").at(Instant.now()));
            assertThat(begun.await(60, TimeUnit.SECONDS)).isTrue();
            events.clear();

            proxy.swallow();
            assertThat(told.poll(60, TimeUnit.SECONDS)).isEqualTo(StopReason.LEASE_LOST);
            proxy.mend();

            await(Event.Kind.JOINED);
            assertThat(brume.stop(Duration.ofSeconds(30))).isTrue();
        }
    }

    private static HikariDataSource pool(String url, int size) {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url);
        return pool(config, size, 1000);
    }

    private static HikariDataSource pool(DataSource source, int size) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        return pool(config, size, 60_000);
    }

    private static HikariDataSource pool(HikariConfig config, int size, long patienceMillis) {
        config.setMaximumPoolSize(size);
        config.setMinimumIdle(0);
        config.setConnectionTimeout(patienceMillis);
        return new HikariDataSource(config);
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void workersThatHoldThePoolDoNotStarveTheirOwnLease(Db db) throws Exception {
        int workers = 8;
        AtomicReference<HikariDataSource> small = new AtomicReference<>();
        try (Db.Fresh fresh = db.fresh(all -> {
            small.set(pool(all, 5));
            return small.get();
        })) {
            CountDownLatch go = new CountDownLatch(1);
            Brume brume = Brume.on(fresh.store())
                    .instance("quay-1")
                    .workers(workers)
                    .lease(PATIENT_LEASE)
                    .poll(Duration.ofMillis(100))
                    .engineListener(events::add)
                    .build();
            brume.handler(
                    "survey",
                    run -> run.commit(connection -> {
                        // It writes slowly, and pauses for less than a transaction may.
                        while (!go.await(20, TimeUnit.MILLISECONDS)) {
                            try (Statement statement = connection.createStatement()) {
                                statement.execute("select 1");
                            }
                        }
                    }));
            brume.define(Job.named(SURVEY)
                    .handler("survey")
                    .ifBusy(IfBusy.alongside(workers))
                    .build());
            for (int i = 0; i < workers; i++) {
                brume.oneOffs().add(OneOff.of(SURVEY, "run-" + i).at(Instant.now()));
            }
            brume.start();
            await(Event.Kind.STARTED);

            Set<String> renewals = new HashSet<>();
            long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
            while (renewals.size() < 4) {
                assertThat(System.nanoTime() - until)
                        .as("renewals %s", renewals)
                        .isNegative();
                try (Connection connection = fresh.connection();
                        Statement statement = connection.createStatement();
                        ResultSet rows =
                                statement.executeQuery("select renewed_at from " + fresh.table("brume_session"))) {
                    while (rows.next()) {
                        renewals.add(rows.getString(1));
                    }
                }
            }
            go.countDown();
            for (int i = 0; i < workers; i++) {
                await(Event.Kind.SUCCEEDED);
            }
            List<RunView> runs = fresh.store().history().runs(RunFilter.newest(100));
            assertThat(runs).hasSize(workers).allSatisfy(run -> {
                assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
                assertThat(run.attempts()).hasSize(1);
            });
            assertThat(brume.stop(Duration.ofSeconds(30))).isTrue();
        } finally {
            small.get().close();
        }
    }

    @Test
    void aLeaseThatOneStatementMayOutlastIsRefusedWhereItIsBuilt() throws Exception {
        try (HikariDataSource pool = Databases.h2()) {
            JdbcStore slow =
                    JdbcStore.builder(pool).limit(Duration.ofSeconds(2)).build();

            assertThatThrownBy(() -> Brume.on(slow).lease(LEASE).build())
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessage(
                            "lease: 2s is not longer than the 2s that one statement of the store may last, so it would end"
                                    + " while one hangs; set a longer lease, or a shorter JdbcStore.builder(...).limit(...)");
        }
    }
}
