package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.Test;
import org.postgresql.ds.PGSimpleDataSource;

/** A database that an earlier version has filled goes on under this one. */
class UpgradeTest {
    private static final String DEFINITION =
            "{\"when\":[{\"cron\":\"0 9 * * *\",\"zone\":\"Atlantic/Azores\"}],\"work\":{\"program\":[\"true\"]}}";

    @Test
    void onPostgres() throws SQLException {
        String schema = Databases.freshName();
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(Databases.postgresUrl());
        execute(source, "create schema " + schema);
        source.setCurrentSchema(schema);
        goesOn(source, "postgresql");
    }

    @Test
    void onH2() throws SQLException {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:" + Databases.freshName() + ";DB_CLOSE_DELAY=-1");
        goesOn(source, "h2");
    }

    private static void execute(DataSource source, String sql) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static void goesOn(DataSource source, String database) throws SQLException {
        execute(source, scriptOfTheFirst(database));
        execute(
                source,
                "insert into brume_job (namespace, name, live_key, version, source, cursor_at, next_at, used, cap,"
                        + " waiting) values ('main', 'dues', 'main/dues', 1, 'test', timestamp with time zone"
                        + " '2026-11-23 00:00:00+00', timestamp with time zone '2026-11-23 10:00:00+00', 1, 1, 0)");
        execute(
                source,
                "insert into brume_version (job_id, number, definition, source, defined_at) values (1, 1, '"
                        + DEFINITION + "', 'test', timestamp with time zone '2026-11-23 00:00:00+00')");
        execute(
                source,
                "insert into brume_run (id, job_id, planned_at, slot, origin, nominal, zone, note, version, state,"
                        + " lane, priority, ready_at, attempt) values (7, 1, timestamp with time zone '2026-11-22 10:00:00+00',"
                        + " '', 'SCHEDULE', '2026-11-22T09:00', 'Atlantic/Azores', 'AFTER_GAP', 1, 'PLANNED', 'main', 5,"
                        + " timestamp with time zone '2026-11-22 10:00:00+00', 0)");

        try (JdbcStore store = JdbcStore.on(source)) {
            Brume brume = Brume.on(store).takesPrograms().instance("newer").build();
            JobView view = store.history().job(new JobName("main", "dues")).orElseThrow();

            assertThat(view.job().scheduleInWords()).isEqualTo("At 09:00 every day, Azores time");
            assertThat(view.row().afterEnd()).isEmpty();
            assertThat(view.row().nextAt()).contains(Instant.parse("2026-11-23T10:00:00Z"));
            assertThat(store.history().runs(RunFilter.newest(5)))
                    .singleElement()
                    .satisfies(run -> {
                        assertThat(run.state()).contains(RunState.PLANNED);
                        assertThat(run.owed().note()).contains("AFTER_GAP");
                    });
            assertThat(store.<String>transact(Transaction::tzdata)).isEmpty();
            changesAsEver(brume, store, view.job());
        }
    }

    private static void changesAsEver(Brume brume, JdbcStore store, Job before) {
        assertThat(brume.define(List.of(before), "test").get(0).kind()).isEqualTo(Defined.Kind.UNCHANGED);
        CalendarName key = new CalendarName("main", "feasts");
        Job after = Job.named("dues")
                .afterFinish(Duration.ofHours(1))
                .program("true")
                .build();
        Defined changed = brume.define(DefinitionSet.of("test", List.of(after))
                        .withCalendars(Map.of(key, DayCalendar.ofDates("feasts", List.of()))))
                .get(0);

        assertThat(changed.version()).isEqualTo(2);
        JobView view = store.history().job(after.key()).orElseThrow();
        assertThat(view.row().afterEnd().orElseThrow().due()).isPresent();
        assertThat(store.history().calendars()).hasSize(1);
    }

    /** What an administrator would have run then: everything before the second script. */
    private static String scriptOfTheFirst(String database) {
        String all = JdbcStore.schemaScript(database);
        return all.substring(0, all.indexOf("-- Brume, schema 2"));
    }
}
