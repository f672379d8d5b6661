package dev.brume.jdbc;

import dev.brume.port.StoreException;
import dev.brume.port.StoreException.Trouble;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;

/**
 * Brings the schema to this version: numbered scripts, each applied once, noted in {@code brume_schema}.
 *
 * <p>Concurrent starters are kept apart by a lock on a row of that table; on PostgreSQL scripts are
 * transactional, so a failed one leaves nothing behind. An older software meeting a newer schema refuses
 * to work, and so does anyone meeting a script that was changed after it was applied.
 */
final class SchemaMigrator {
    /** The newest schema this software knows. */
    static final int NEWEST = 2;

    private final Dialect dialect;
    private final Optional<String> schema;
    private final UnaryOperator<String> naming;
    private final String description;

    SchemaMigrator(Dialect dialect, Optional<String> schema, UnaryOperator<String> naming, String description) {
        this.dialect = dialect;
        this.schema = schema;
        this.naming = naming;
        this.description = description;
    }

    /** Returns the script of a version, as an administrator would run it. */
    static String script(Dialect dialect, int version) {
        String name = "schema/" + dialect.folder() + "/V" + version + ".sql";
        try (InputStream stream = SchemaMigrator.class.getResourceAsStream(name)) {
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Returns the statement that notes a script as applied, for administrators who apply it by hand. */
    static String note(Dialect dialect, int version) {
        return "insert into brume_schema (version, checksum, applied_at) values (" + version + ", '"
                + checksum(script(dialect, version)) + "', current_timestamp);";
    }

    /** Returns the statements that create the table of applied scripts. */
    static String historyTable(Dialect dialect) {
        String instant = dialect == Dialect.POSTGRESQL ? "timestamptz" : "timestamp(6) with time zone";
        return "create table if not exists brume_schema (version integer not null primary key,"
                + " checksum varchar(64) not null, applied_at " + instant + " not null)";
    }

    /** Checks that the schema is there, creating nothing. */
    void verify(Connection connection) {
        Optional<Map<Integer, String>> applied = applied(new Statements(connection, naming));
        if (applied.isEmpty() || !isCurrent(applied.get())) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "there are no tables of this version in " + description
                            + " (they appear when an instance starts: brume serve; or run what brume schema prints)",
                    null);
        }
    }

    void migrate(Connection connection) throws SQLException {
        Statements statements = new Statements(connection, naming);
        Optional<Map<Integer, String>> applied = applied(statements);
        if (applied.isPresent() && isCurrent(applied.get())) {
            return;
        }
        createHistory(connection, statements);
        connection.setAutoCommit(false);
        try {
            lockHistory(statements);
            Map<Integer, String> now = readApplied(statements);
            for (int version = 1; version <= NEWEST; version++) {
                if (!now.containsKey(version)) {
                    apply(statements, version);
                }
            }
            connection.commit();
        } catch (RuntimeException | SQLException e) {
            connection.rollback();
            throw e;
        } finally {
            connection.setAutoCommit(true);
        }
    }

    private boolean isCurrent(Map<Integer, String> applied) {
        int newest = applied.keySet().stream().max(Integer::compare).orElse(0);
        if (newest > NEWEST) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "the schema of " + description + " is version " + newest + ", newer than this software's " + NEWEST
                            + ": update the software",
                    null);
        }
        applied.forEach((version, checksum) -> {
            if (version > 0 && !checksum.equals(checksum(script(dialect, version)))) {
                throw new StoreException(
                        Trouble.SCHEMA,
                        "script V" + version + " of " + description
                                + " was applied in another form than this software has: compare the two before going on",
                        null);
            }
        });
        return newest == NEWEST;
    }

    private static Optional<Map<Integer, String>> applied(Statements statements) {
        try {
            return Optional.of(readApplied(statements));
        } catch (Statements.UncheckedSql absent) {
            if (SqlErrors.troubleOf(absent) != Trouble.SCHEMA) {
                throw absent;
            }
            return Optional.empty();
        }
    }

    private static Map<Integer, String> readApplied(Statements statements) {
        Map<Integer, String> applied = new TreeMap<>();
        statements.query(
                "select version, checksum from brume_schema", row -> applied.put(row.getInt(1), row.getString(2)));
        return applied;
    }

    private void createHistory(Connection connection, Statements statements) throws SQLException {
        connection.setAutoCommit(true);
        List<String> creations = schema.isPresent()
                ? List.of("create schema if not exists " + schema.get(), historyTable(dialect))
                : List.of(historyTable(dialect));
        for (String creation : creations) {
            try {
                statements.execute(creation);
            } catch (Statements.UncheckedSql raced) {
                // "if not exists" is not safe against another starter at the same moment; it is there now.
                readAppliedOr(statements, creation, raced);
            }
        }
        try {
            statements.update(
                    "insert into brume_schema (version, checksum, applied_at) values (0, 'lock', ?)",
                    Instant.EPOCH.atOffset(ZoneOffset.UTC));
        } catch (Statements.UncheckedSql present) {
            if (SqlErrors.troubleOf(present) != Trouble.CONFLICT) {
                throw present;
            }
        }
    }

    private static void readAppliedOr(Statements statements, String creation, Statements.UncheckedSql raced) {
        if (creation.contains("create schema")) {
            return;
        }
        try {
            readApplied(statements);
        } catch (Statements.UncheckedSql stillAbsent) {
            raced.addSuppressed(stillAbsent);
            throw raced;
        }
    }

    private static void lockHistory(Statements statements) {
        statements.query("select version from brume_schema where version = 0 for update", row -> row.getInt(1));
    }

    /**
     * Applies a script. Where the database commits at each of its statements the lock is gone after the first, and another
     * starter may apply the same script beside; such scripts are safe to apply twice, and noted by whoever is first.
     */
    private void apply(Statements statements, int version) {
        String script = script(dialect, version);
        statements.execute(script);
        try {
            statements.update(
                    "insert into brume_schema (version, checksum, applied_at) values (?, ?, current_timestamp)",
                    version,
                    checksum(script));
        } catch (Statements.UncheckedSql raced) {
            boolean noted = SqlErrors.troubleOf(raced) == Trouble.CONFLICT
                    && dialect == Dialect.H2
                    && readApplied(statements).containsKey(version);
            if (!noted) {
                throw raced;
            }
        }
    }

    private static String checksum(String script) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256").digest(script.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(digest);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
