package dev.brume.jdbc;

import dev.brume.JobName;
import dev.brume.history.Health;
import java.sql.Connection;
import java.sql.DatabaseMetaData;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.OptionalInt;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Asks a database how it fares. What its user may not see is left out: that is no reason to say nothing of the rest. Confined to
 * one thread.
 */
final class JdbcHealth {
    private static final Logger LOG = LoggerFactory.getLogger(JdbcHealth.class);

    private final Statements sql;
    private final Dialect dialect;
    private final Optional<String> schema;

    JdbcHealth(Statements sql, Dialect dialect, Optional<String> schema) {
        this.sql = sql;
        this.dialect = dialect;
        this.schema = schema;
    }

    Health look(String product, List<JobName> locked) {
        return new Health(
                product,
                schemaVersion(),
                SchemaMigrator.NEWEST,
                tzdata(),
                seen("tables", this::tables),
                seen("transactions", this::transactions),
                locked,
                seen("settings", this::settings));
    }

    /** Asks for something that the user may not be allowed to see. */
    private interface Asking<T> {
        List<T> ask();
    }

    private static <T> List<T> seen(String what, Asking<T> asking) {
        try {
            return asking.ask();
        } catch (Statements.UncheckedSql e) {
            LOG.debug("{} cannot be seen by this user", what, e);
            return List.of();
        }
    }

    private OptionalInt schemaVersion() {
        return sql.first(
                        "select max(version) as newest from brume_schema", row -> OptionalInt.of(row.integer("newest")))
                .orElse(OptionalInt.empty());
    }

    private String tzdata() {
        return sql.first(
                        "select tzdata from brume_cluster where id = 1",
                        row -> row.optionalText("tzdata").orElse(""))
                .orElse("");
    }

    private List<Health.Table> tables() {
        return switch (dialect) {
            case POSTGRESQL ->
                sql.query(
                        """
                        select c.relname as name, greatest(coalesce(s.n_live_tup, 0), c.reltuples::bigint) as live,
                            coalesce(s.n_dead_tup, 0) as dead, pg_total_relation_size(c.oid) as bytes,
                            greatest(s.last_vacuum, s.last_autovacuum) as cleaned
                        from pg_class c
                        join pg_namespace n on n.oid = c.relnamespace
                        left join pg_stat_user_tables s on s.relid = c.oid
                        where c.relkind = 'r' and c.relname like 'brume\\_%'
                        and n.nspname = coalesce(cast(? as text), current_schema())
                        order by c.relname""",
                        row -> new Health.Table(
                                row.text("name"),
                                row.number("live"),
                                row.number("dead"),
                                row.number("bytes"),
                                row.optionalInstant("cleaned")),
                        schema);
            case MARIADB -> sql.query("""
                        select table_name as name, coalesce(table_rows, 0) as live,
                            coalesce(data_length + index_length, 0) as bytes
                        from information_schema.tables
                        where table_schema = coalesce(?, database()) and table_name like 'brume\\_%'
                        order by table_name""", JdbcHealth::plainTable, schema);
            case H2 -> sql.query("""
                        select table_name as name, row_count_estimate as live, 0 as bytes
                        from information_schema.tables
                        where table_schema = coalesce(cast(? as varchar), current_schema)
                        and lower(table_name) like 'brume!_%' escape '!'
                        order by table_name""", JdbcHealth::plainTable, schema.map(name -> name.toUpperCase(Locale.ROOT)));
        };
    }

    private static Health.Table plainTable(Row row) throws SQLException {
        return new Health.Table(
                row.text("name").toLowerCase(Locale.ROOT),
                row.number("live"),
                0,
                row.number("bytes"),
                Optional.empty());
    }

    private List<Health.OldTransaction> transactions() {
        return switch (dialect) {
            case POSTGRESQL ->
                sql.query(
                        """
                        select pid, xact_start, coalesce(usename, '') as who,
                            coalesce(nullif(application_name, ''), 'no name') as program,
                            coalesce(state, '') as state, coalesce(left(query, 60), '') as query
                        from pg_stat_activity
                        where datname = current_database()
                        and pid <> pg_backend_pid()
                        and xact_start < clock_timestamp() - interval '1 minute'
                        order by xact_start""",
                        row -> new Health.OldTransaction(
                                "pid " + row.number("pid"),
                                row.instant("xact_start"),
                                row.text("who") + ", " + row.text("program") + ", " + row.text("state") + ", \""
                                        + oneLine(row.text("query")) + "\""));
            case MARIADB ->
                sql.query(
                        """
                        select trx_mysql_thread_id as thread,
                            timestampadd(second, -timestampdiff(second, trx_started, now()), utc_timestamp(6)) as since,
                            trx_rows_locked as locked, coalesce(left(trx_query, 60), '') as query
                        from information_schema.innodb_trx
                        where trx_mysql_thread_id <> connection_id()
                        and trx_started < now() - interval 1 minute
                        order by trx_started""",
                        row -> new Health.OldTransaction(
                                "connection " + row.number("thread"),
                                row.instant("since"),
                                row.number("locked") + " rows locked, \"" + oneLine(row.text("query")) + "\""));
            case H2 -> List.of();
        };
    }

    private static String oneLine(String text) {
        return text.replaceAll("\\s+", " ").strip();
    }

    private List<Health.Setting> settings() {
        List<Health.Setting> doubtful = new ArrayList<>();
        switch (dialect) {
            case POSTGRESQL -> {
                check(doubtful, "fsync", "select current_setting('fsync')", "on");
                check(doubtful, "full_page_writes", "select current_setting('full_page_writes')", "on");
                String commit = value("select current_setting('synchronous_commit')");
                if (commit.equals("off")) {
                    doubtful.add(new Health.Setting("synchronous_commit", commit, "on"));
                }
            }
            case MARIADB ->
                check(doubtful, "innodb_flush_log_at_trx_commit", "select @@innodb_flush_log_at_trx_commit", "1");
            case H2 -> {
                check(
                        doubtful,
                        "WRITE_DELAY",
                        "select coalesce((select setting_value from information_schema.settings where setting_name = 'WRITE_DELAY'), '500')",
                        "0");
                H2Version version = new H2Version(value("select h2version()"));
                if (version.verdict() == H2Version.Verdict.LOSES) {
                    doubtful.add(new Health.Setting("the version of H2", version.number(), H2Version.RECOMMENDED));
                }
            }
        }
        return doubtful;
    }

    private String value(String query) {
        return sql.first(query, row -> row.text(1)).orElse("");
    }

    private void check(List<Health.Setting> doubtful, String name, String query, String wanted) {
        String value = value(query);
        if (!value.equals(wanted)) {
            doubtful.add(new Health.Setting(name, value, wanted));
        }
    }

    /** Names the database and its version. */
    static String product(Connection connection) throws SQLException {
        DatabaseMetaData data = connection.getMetaData();
        return data.getDatabaseProductName() + " "
                + data.getDatabaseProductVersion().replaceAll("[ -].*", "");
    }
}
