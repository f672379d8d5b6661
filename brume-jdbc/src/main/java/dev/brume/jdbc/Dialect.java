package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;

/** The differences between the databases. */
enum Dialect {
    POSTGRESQL("postgresql", "PostgreSQL", "clock_timestamp()", "timestamptz"),
    MARIADB("mariadb", "MariaDB", "utc_timestamp(6)", "datetime(6)"),
    H2("h2", "H2", "current_timestamp", "timestamp(6) with time zone");

    private final String folder;
    private final String product;
    private final String clock;
    private final String instantType;

    Dialect(String folder, String product, String clock, String instantType) {
        this.folder = folder;
        this.product = product;
        this.clock = clock;
        this.instantType = instantType;
    }

    static Dialect of(Connection connection) throws SQLException {
        String found = connection.getMetaData().getDatabaseProductName();
        for (Dialect dialect : values()) {
            if (found.toLowerCase(Locale.ROOT).contains(dialect.folder)) {
                return dialect;
            }
        }
        String known = Arrays.stream(values()).map(each -> each.product).collect(Collectors.joining(", "));
        throw new SQLException("the database is " + found + " (expected one of " + known + ")");
    }

    /** The names by which a user may ask for one. */
    static Dialect named(String database) {
        return Arrays.stream(values())
                .filter(dialect -> dialect.folder.equals(database))
                .findFirst()
                .orElseThrow(() ->
                        new IllegalArgumentException("'" + database + "' is not one of " + String.join(", ", names())));
    }

    static List<String> names() {
        return Arrays.stream(values()).map(Dialect::folder).toList();
    }

    /** The folder of its schema scripts. */
    String folder() {
        return folder;
    }

    /** The clock as an expression; on H2 it stands still within a transaction. */
    String clock() {
        return clock;
    }

    /** A query for the time of now, also within a transaction; H2 notes when each statement began. */
    String clockQuery() {
        return this == H2 ? """
                        select executing_statement_start as clock
                        from information_schema.sessions
                        where session_id = session_id()""" : "select " + clock + " as clock";
    }

    /** The type of a column that holds an instant. */
    String instantType() {
        return instantType;
    }

    /**
     * {@return when there is something to decide about a job next, given its next occurrence twice: at that, unless it is paused, or at
     * the turn of a pause}
     */
    String dueAt() {
        return "case when paused = 0 then coalesce(least(" + instantPlace() + ", turn_at), " + instantPlace()
                + ", turn_at) else turn_at end";
    }

    /** A place for an instant in an expression that does not tell its type. */
    String instantPlace() {
        return "cast(? as " + instantType + ")";
    }

    /** An instant as microseconds since 1970, which are read a good deal faster than instants are. */
    String micros(String column) {
        return switch (this) {
            case POSTGRESQL -> "cast(round(extract(epoch from " + column + ") * 1000000) as bigint)";
            case MARIADB -> "timestampdiff(microsecond, '1970-01-01', " + column + ")";
            case H2 -> "datediff(microsecond, timestamp with time zone '1970-01-01 00:00:00Z', " + column + ")";
        };
    }

    /** Whether one query alone can be given a time limit; H2 sets it for the connection, in two more statements. */
    boolean limitsQueries() {
        return this != H2;
    }

    /** Whether only one transaction of ours may write at a time; see {@link WritingTurn}. */
    boolean writesInTurn() {
        return this == H2;
    }

    /** Whether there is no type for an instant, so that local times of UTC stand for them. */
    boolean storesLocalTimes() {
        return this == MARIADB;
    }

    /** Whether UUIDs are text. */
    boolean storesUuidsAsText() {
        return this == MARIADB;
    }

    /** Whether a single statement takes many rows as arrays. */
    boolean takesArrays() {
        return this == POSTGRESQL;
    }

    /** Whether a schema script commits at each of its statements, so that it must be safe to apply again. */
    boolean commitsAtDdl() {
        return this != POSTGRESQL;
    }

    /** Whether a script is sent as a whole; otherwise each statement by itself. */
    boolean takesScripts() {
        return this != MARIADB;
    }

    /** The column of a live run by which it may be claimed; empty there while it may not. */
    String readyColumn() {
        return this == MARIADB ? "claimable_at" : "ready_at";
    }

    /** A statement that yields that many fresh pairs of run ids and fence numbers. */
    String freshNumbers(int count) {
        return switch (this) {
            case POSTGRESQL ->
                "select nextval('brume_run_number'), nextval('brume_fence_number') from generate_series(1, " + count
                        + ")";
            case MARIADB -> "select nextval(brume_run_number), nextval(brume_fence_number) from seq_1_to_" + count;
            case H2 ->
                "select next value for brume_run_number, next value for brume_fence_number from system_range(1, "
                        + count + ")";
        };
    }

    /** A statement that yields that many fresh fence numbers. */
    String freshFences(int count) {
        return switch (this) {
            case POSTGRESQL -> "select nextval('brume_fence_number') from generate_series(1, " + count + ")";
            case MARIADB -> "select nextval(brume_fence_number) from seq_1_to_" + count;
            case H2 -> "select next value for brume_fence_number from system_range(1, " + count + ")";
        };
    }

    /** Ends an insert that is to do nothing if the row's key is there; elsewhere a refused insert leaves no trace anyway. */
    String unlessThere() {
        return this == POSTGRESQL ? " on conflict do nothing" : "";
    }

    /**
     * Which history of itself the server is in, as an expression. PostgreSQL begins a new one whenever a standby takes over
     * or a backup is restored; the others do not tell.
     */
    String timeline() {
        return this == POSTGRESQL ? "substr(pg_walfile_name(pg_current_wal_insert_lsn()), 1, 8)" : "''";
    }

    /** Tells the ledger's own guard that what is deleted now is deleted by retention, or no longer. */
    void sayRetention(Statements sql, boolean begins) {
        if (this == POSTGRESQL) {
            sql.query(
                    "select set_config('brume.retention', '" + (begins ? "on" : "off") + "', true)",
                    row -> row.text(1));
        } else {
            sql.execute("set @brume_retention = " + (begins ? 1 : 0));
        }
    }

    /**
     * Keeps the months of the ledger where they are as long as a transaction reads, which has read nothing so far: a month that goes is
     * gone from older snapshots too. Nor is anything compiled for it: with many months that takes longer than what it saves.
     */
    void holdMonths(Statements sql) {
        if (this == POSTGRESQL) {
            sql.execute("set local jit = off; lock table brume_ledger in access share mode");
        }
    }

    /** Has the rest of a transaction look things up rather than read whole tables, where a database can be told. */
    void withoutReadingAll(Statements sql) {
        if (this == POSTGRESQL) {
            sql.execute("set local enable_seqscan = off");
        }
    }

    /** Whether a row can be locked and the clock be read after that in one statement: each costs a way to the server. */
    boolean readsClockBehindLock() {
        return this == POSTGRESQL;
    }

    /** A query that locks a row, with the clock as it is then where that can be had at once. */
    String withClock(String locking) {
        return readsClockBehindLock()
                ? "with held as materialized (" + locking + ") select held.*, clock_timestamp() as clock from held"
                : locking;
    }

    /** Locks a session against being closed, but if possible not against being renewed. */
    String sessionHold() {
        return switch (this) {
            case POSTGRESQL -> " for key share";
            case MARIADB -> " lock in share mode";
            case H2 -> " for update";
        };
    }
}
