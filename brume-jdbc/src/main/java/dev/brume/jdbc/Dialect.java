package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.Locale;

/** What differs between the databases. */
enum Dialect {
    POSTGRESQL("postgresql", "clock_timestamp()"),
    H2("h2", "current_timestamp");

    private final String folder;
    private final String clock;

    Dialect(String folder, String clock) {
        this.folder = folder;
        this.clock = clock;
    }

    static Dialect of(Connection connection) throws SQLException {
        String product = connection.getMetaData().getDatabaseProductName();
        for (Dialect dialect : values()) {
            if (product.toLowerCase(Locale.ROOT).contains(dialect.folder)) {
                return dialect;
            }
        }
        throw new SQLException("the database is " + product + " (expected PostgreSQL or H2)");
    }

    /** The folder of its schema scripts. */
    String folder() {
        return folder;
    }

    /** The clock as an expression; on H2 it stands still within a transaction. */
    String clock() {
        return clock;
    }

    /** Whether the clock must be read outside the transaction to be the time of now. */
    boolean clockStandsStill() {
        return this == H2;
    }

    /** Whether a single statement takes many rows as arrays. */
    boolean takesArrays() {
        return this == POSTGRESQL;
    }

    /** A statement that yields as many fresh pairs of run ids and fence numbers as its parameter says. */
    String freshNumbers() {
        return this == POSTGRESQL
                ? "select nextval('brume_run_number'), nextval('brume_fence_number') from generate_series(1, ?)"
                : "select next value for brume_run_number, next value for brume_fence_number"
                        + " from system_range(1, ?)";
    }

    /** A statement that yields as many fresh fence numbers as its parameter says. */
    String freshFences() {
        return this == POSTGRESQL
                ? "select nextval('brume_fence_number') from generate_series(1, ?)"
                : "select next value for brume_fence_number from system_range(1, ?)";
    }

    /** Locks a session against being closed, but if possible not against being renewed. */
    String sessionHold() {
        return this == POSTGRESQL ? " for key share" : " for update";
    }
}
