package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.CountDownLatch;
import org.assertj.core.api.ThrowableAssert;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** The roles of the printed script: one that works, one that alone removes from the ledger. */
class RolesTest {
    private static final JobName LAMPS = JobName.parse("lamps");

    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void oneRoleWorksAndTheOtherAloneRemoves(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            String worker = fresh.place() + "_w";
            String archivist = fresh.place() + "_a";
            fresh.addUser(worker);
            fresh.addUser(archivist);
            grant(fresh, JdbcStore.rolesScript(name(db), worker, archivist));
            try (HikariDataSource working = fresh.poolOf(worker);
                    HikariDataSource removing = fresh.poolOf(archivist)) {
                fresh.store().transact(tx -> {
                    tx.feed().listen(Duration.ofHours(1));
                    return null;
                });
                workAs(fresh.storeOn(working));
                try (Brume office = Brume.on(fresh.storeOn(working))
                        .takesPrograms()
                        .instance("office")
                        .build()) {
                    notIts(() -> office.orders("ines", "").keep(Keep.newest(1)));
                    notIts(() -> office.orders("ines", "").keepNoLeast());
                }
                try (Brume office = Brume.on(fresh.storeOn(working))
                                .takesPrograms()
                                .instance("office")
                                .build();
                        Brume archive = Brume.on(fresh.storeOn(removing))
                                .takesPrograms()
                                .instance("archive")
                                .build()) {
                    fresh.sql("update " + fresh.table("brume_keep") + " set keep_runs = 1");
                    assertThat(archive.orders("ines", "").removeBeyondBounds())
                            .as("bounds that the change log knows nothing of")
                            .isZero();
                    fresh.sql("update " + fresh.table("brume_keep") + " set keep_runs = null");
                    fresh.sql("update " + fresh.table("brume_job") + " set keep_runs = 1");
                    assertThat(archive.orders("ines", "").removeBeyondBounds())
                            .as("bounds of a job that its definition does not state")
                            .isZero();
                    notIts(() -> office.orders("ines", "asked").erase(LAMPS, "storm"));
                    assertThat(archive.orders("ines", "asked").erase(LAMPS, "storm"))
                            .extracting(erased -> erased.content().words())
                            .containsExactly("payload");
                    archive.orders("ines", "").keep(Keep.newest(1));
                    notIts(() -> office.orders("ines", "").removeBeyondBounds());
                    assertThat(archive.orders("ines", "").removeBeyondBounds()).isEqualTo(2);
                    assertThatThrownBy(() -> archive.define(
                                    Job.named("x").program("true").build()))
                            .isInstanceOf(StoreException.class);
                }
            }
        }
    }

    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void whoRunsCannotDefineWhereAnotherRoleDoes(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            String runner = fresh.place() + "_r";
            String definer = fresh.place() + "_d";
            fresh.addUser(runner);
            fresh.addUser(definer);
            grant(fresh, JdbcStore.rolesScript(name(db), runner, definer, definer));
            try (HikariDataSource running = fresh.poolOf(runner);
                    HikariDataSource defining = fresh.poolOf(definer);
                    Brume office =
                            Brume.on(fresh.storeOn(defining)).instance("office").build();
                    Brume quay =
                            Brume.on(fresh.storeOn(running)).instance("quay").build()) {
                CountDownLatch ran = new CountDownLatch(4);
                quay.handler("lamps", run -> ran.countDown());
                office.define(Job.named("wicks").handler("lamps").build());
                office.define(Job.named(LAMPS)
                        .handler("lamps")
                        .exclusive("oil")
                        .followUp(FollowUp.On.SUCCESS, "wicks")
                        .build());
                quay.start();
                quay.orders("ines", "").runNow(LAMPS);
                quay.oneOffs().add(OneOff.of(LAMPS, "storm").at(Instant.EPOCH).payload("gale"));
                assertThat(ran.await(30, java.util.concurrent.TimeUnit.SECONDS)).isTrue();

                assertThatThrownBy(() ->
                                quay.define(Job.named("x").handler("lamps").build()))
                        .isInstanceOfSatisfying(
                                StoreException.class,
                                e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.NOT_WRITABLE));
                assertThat(quay.stop(Brume.DRAIN_LIMIT)).isTrue();
            }
        }
    }

    private static void notIts(ThrowableAssert.ThrowingCallable order) {
        assertThatThrownBy(order)
                .isInstanceOfSatisfying(
                        StoreException.class,
                        e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.NOT_WRITABLE));
    }

    private static String name(Db db) {
        return db.name().toLowerCase(java.util.Locale.ROOT);
    }

    private static void grant(Db.Fresh fresh, String script) throws Exception {
        try (Connection connection = fresh.connection();
                Statement statement = connection.createStatement()) {
            fresh.useOwnPlace(statement);
            for (String line : script.split("\n")) {
                if (line.startsWith("grant")) {
                    statement.execute(line);
                }
            }
        }
    }

    /** Everything an instance does in a short life: define, plan, run, order, lease, sweep what is not its to sweep, leave. */
    private static void workAs(JdbcStore store) throws InterruptedException {
        CountDownLatch ran = new CountDownLatch(3);
        try (Brume quay = Brume.on(store).takesPrograms().instance("quay").build()) {
            quay.define(Job.named(LAMPS).exclusive("oil"), run -> {
                run.progress(50, "half");
                ran.countDown();
            });
            quay.oneOffs().add(OneOff.of(LAMPS, "storm").at(Instant.EPOCH).payload("gale"));
            quay.start();
            quay.orders("ines", "").runNow(LAMPS);
            long again = quay.orders("ines", "").runNow(LAMPS).id();
            assertThat(ran.await(30, java.util.concurrent.TimeUnit.SECONDS)).isTrue();
            quay.takeLease("dues", Duration.ofSeconds(5)).orElseThrow().close();
            quay.define(Job.named(LAMPS).exclusive("oil").tag("night"), run -> {});
            assertThat(quay.stop(Brume.DRAIN_LIMIT)).isTrue();
            assertThat(quay.history().run(again).orElseThrow().outcome()).contains(Outcome.SUCCEEDED);
        }
    }
}
