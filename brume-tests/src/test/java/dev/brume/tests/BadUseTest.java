package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.MissingRightException;
import dev.brume.PoolTooSmallException;
import dev.brume.ReadOnlyStoreException;
import dev.brume.jdbc.JdbcStore;
import java.time.Duration;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What is set up in a way that cannot work says so, and what to do. */
class BadUseTest {

    /** A pool on the connections of a place. */
    private static HikariDataSource small(Db.Fresh fresh, int size, @Nullable String begins) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(fresh.source());
        config.setConnectionInitSql(begins);
        config.setMaximumPoolSize(size);
        config.setConnectionTimeout(300);
        return new HikariDataSource(config);
    }

    @ParameterizedTest
    @EnumSource
    void aPoolThatIsTooSmallIsToldAtTheStart(Db db) throws Exception {
        int needed = db == Db.POSTGRESQL ? 3 : 2;
        try (Db.Fresh fresh = db.fresh();
                HikariDataSource enough = small(fresh, needed, null);
                HikariDataSource pool = small(fresh, needed - 1, null);
                Brume works = Brume.on(fresh.storeOn(enough)).instance("works").build();
                Brume brume = Brume.on(fresh.storeOn(pool)).instance("quay-1").build()) {
            assertThatThrownBy(brume::start)
                    .isInstanceOf(PoolTooSmallException.class)
                    .hasMessageContaining("gives " + (needed - 1) + " of the " + needed + " connections at once")
                    .hasMessageContaining("let it have five more than the application uses itself");

            works.define(Job.named("tides"), run -> run.result("high"));
            works.start();
            assertThat(works.orders("anna", "")
                            .runNow(JobName.parse("tides"))
                            .await(Duration.ofSeconds(60))
                            .value())
                    .as("with as many as are needed")
                    .contains("high");
        }
    }

    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void aDatabaseThatCanOnlyBeReadIsToldWhenItIsSetUp(Db db) {
        String only =
                db == Db.POSTGRESQL ? "set default_transaction_read_only = on" : "set session transaction read only";
        try (Db.Fresh fresh = db.fresh();
                HikariDataSource replica = small(fresh, 4, only)) {
            JdbcStore store = fresh.storeOn(replica);
            assertThatThrownBy(() -> Brume.on(store).build().define(Job.named("tides"), run -> {}))
                    .isInstanceOf(ReadOnlyStoreException.class)
                    .hasMessageContaining("use a DataSource of the primary itself, none that chooses between servers");
        }
    }

    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void aUserWhoMayNotCreateTheTablesIsToldWho(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            String user = "poor_" + fresh.place();
            fresh.addUser(user);
            if (db == Db.MARIADB) {
                fresh.sql("grant select on " + fresh.place() + ".brume_schema to " + user);
            }
            try (HikariDataSource pool = fresh.poolOf(user)) {
                JdbcStore.Builder builder = JdbcStore.builder(pool).description("the harbour's database");
                JdbcStore store =
                        db == Db.POSTGRESQL ? builder.schema(fresh.place()).build() : builder.build();
                assertThatThrownBy(() -> Brume.on(store).build().define(Job.named("tides"), run -> {}))
                        .isInstanceOf(MissingRightException.class)
                        .hasMessageContaining("as an administrator, apply what 'brume schema' prints");
            }
        }
    }

    @Test
    void twoInstancesOfOneNameAreTold() throws Exception {
        CompletableFuture<String> told = new CompletableFuture<>();
        try (Db.Fresh fresh = Db.H2.fresh();
                Brume first = Brume.on(fresh.store())
                        .instance("quay-1")
                        .lease(Duration.ofSeconds(2))
                        .build();
                Brume second = Brume.on(fresh.store())
                        .instance("quay-1")
                        .lease(Duration.ofSeconds(2))
                        .build()) {
            second.listen("test", EventFilter.of(Event.Kind.PROBLEM), event -> told.complete(event.text()));
            first.define(Job.named("tides"), run -> {});
            first.start();
            first.orders("anna", "").runNow(JobName.parse("tides")).await(Duration.ofSeconds(60));
            second.start();

            assertThat(told.get(60, TimeUnit.SECONDS))
                    .contains("another instance that lives is named quay-1 too")
                    .contains("give each a name of its own");
        }
    }
}
