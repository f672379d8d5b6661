package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.schedule.CronSchedule;
import dev.brume.tests.Databases;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.Test;
import org.postgresql.ds.PGSimpleDataSource;

/** A database that this version has filled goes on under a made-up next one, and what a draft has left is refused. */
class UpgradeTest {
    private static final String SECOND =
            "-- Brume, schema 2: berths.\nalter table brume_job add column berth varchar(20);\n"
                    + "create table brume_berth (name varchar(20) not null primary key);\n";

    private static DataSource h2() {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:" + Databases.freshName() + ";DB_CLOSE_DELAY=-1");
        return source;
    }

    private static DataSource postgres() throws SQLException {
        String schema = Databases.freshName();
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(Databases.postgresUrl());
        execute(source, "create schema " + schema);
        source.setCurrentSchema(schema);
        return source;
    }

    private static void execute(DataSource source, String sql) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static List<String> read(DataSource source, String sql) throws SQLException {
        List<String> found = new java.util.ArrayList<>();
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            while (rows.next()) {
                found.add(rows.getString(1));
            }
        }
        return found;
    }

    /** As the next version of the software would. */
    private static void upgrade(DataSource source, Dialect dialect) throws SQLException {
        SchemaMigrator next = new SchemaMigrator(
                dialect,
                Optional.empty(),
                UnaryOperator.identity(),
                "the database of the test",
                version -> version == 1 ? SchemaMigrator.script(dialect, 1) : SECOND,
                2);
        try (Connection connection = source.getConnection()) {
            next.migrate(connection, source::getConnection, true);
        }
    }

    private static void fill(DataSource source) {
        try (JdbcStore store = JdbcStore.on(source)) {
            Brume.on(store).instance("this-one").build().define(List.of(dues("0 9 * * *")), "test");
        }
    }

    private static Job dues(String cron) {
        return Job.named("dues")
                .schedule(CronSchedule.parse(cron, ZoneId.of("Atlantic/Azores")))
                .handler("dues")
                .build();
    }

    private static void goesOnUnderTheNext(DataSource source, Dialect dialect) throws SQLException {
        fill(source);

        upgrade(source, dialect);
        upgrade(source, dialect);

        assertThat(read(source, "select version from brume_schema where version > 0 order by version"))
                .containsExactly("1", "2");
        assertThat(read(source, "select berth from brume_job")).hasSize(1).containsOnlyNulls();
        assertThat(read(source, "select name from brume_berth")).isEmpty();
    }

    @Test
    void postgresGoesOn() throws SQLException {
        goesOnUnderTheNext(postgres(), Dialect.POSTGRESQL);
    }

    @Test
    void h2GoesOn() throws SQLException {
        goesOnUnderTheNext(h2(), Dialect.H2);
    }

    @Test
    void thisVersionWorksBesideTheNextButNotBesideTheOneAfter() throws SQLException {
        DataSource source = h2();
        fill(source);
        upgrade(source, Dialect.H2);

        try (JdbcStore store = JdbcStore.on(source)) {
            Brume brume = Brume.on(store).instance("this-one").build();
            assertThat(brume.define(List.of(dues("0 10 * * *")), "test").get(0).version())
                    .isEqualTo(2);
        }
        execute(source, "insert into brume_schema (version, checksum, applied_at) values (3, 'x', current_timestamp)");
        assertThatThrownBy(() -> fill(source))
                .isInstanceOf(StoreException.class)
                .hasMessageContaining("is version 3, newer than this software's 1: update the software");
    }

    @Test
    void tablesOfADraftAreRefusedWithAWayOut() throws SQLException {
        DataSource source = h2();
        fill(source);
        execute(source, "update brume_schema set checksum = 'of a draft' where version = 1");
        execute(source, "insert into brume_schema (version, checksum, applied_at) values (8, 'x', current_timestamp)");

        assertThatThrownBy(() -> fill(source))
                .isInstanceOf(StoreException.class)
                .hasMessageContaining("was applied in another form than this software has")
                .hasMessageContaining("brume export");
    }
}
