package dev.brume.jdbc;

import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.IntFunction;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Brings the schema to this version: numbered scripts, each applied once, noted in {@code brume_schema}.
 *
 * <p>Concurrent starters are kept apart by a lock on a row of that table. On PostgreSQL scripts are transactional, so a
 * failed one leaves nothing behind; elsewhere each statement commits, so that they are safe to apply again. Software
 * that meets the very next schema works beside it, since scripts only add; it refuses to work with one that is newer still,
 * and so does anyone who meets a script that was changed after it was applied.
 */
final class SchemaMigrator {
    /** The newest schema this software knows. */
    static final int NEWEST = 1;

    private static final Logger LOG = LoggerFactory.getLogger(SchemaMigrator.class);
    private static final Duration PATIENCE = Duration.ofSeconds(60);
    private static final Set<Integer> TRIGGER_DENIED = Set.of(1142, 1227, 1419);

    private final Dialect dialect;
    private final Optional<String> schema;
    private final UnaryOperator<String> naming;
    private final String description;
    private final IntFunction<String> scripts;
    private final int newestKnown;

    SchemaMigrator(Dialect dialect, Optional<String> schema, UnaryOperator<String> naming, String description) {
        this(dialect, schema, naming, description, version -> script(dialect, version), NEWEST);
    }

    /**
     * Creates a migrator of other scripts.
     *
     * @param scripts the text of each version
     * @param newestKnown how many there are
     */
    SchemaMigrator(
            Dialect dialect,
            Optional<String> schema,
            UnaryOperator<String> naming,
            String description,
            IntFunction<String> scripts,
            int newestKnown) {
        this.scripts = scripts;
        this.newestKnown = newestKnown;
        this.dialect = dialect;
        this.schema = schema;
        this.naming = naming;
        this.description = description;
    }

    /** {@return the script of a version, as an administrator would run it} */
    static String script(Dialect dialect, int version) {
        String name = "schema/" + dialect.folder() + "/V" + version + ".sql";
        try (InputStream stream = SchemaMigrator.class.getResourceAsStream(name)) {
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** {@return the statement that notes a script as applied, for administrators who apply it by hand} */
    static String note(Dialect dialect, int version) {
        return "insert into brume_schema (version, checksum, applied_at) values (" + version + ", '"
                + checksum(script(dialect, version)) + "', current_timestamp);";
    }

    /** {@return the statements that create the table of applied scripts} */
    static String historyTable(Dialect dialect) {
        return "create table if not exists brume_schema (version integer not null primary key,"
                + " checksum varchar(64) not null, applied_at " + dialect.instantType() + " not null)";
    }

    /** Checks that the schema is there, creating nothing. */
    void verify(Connection connection) {
        Optional<Map<Integer, String>> applied = applied(statements(connection));
        if (applied.isEmpty() || !isCurrent(applied.get())) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "there are no tables of this version in " + description + elsewhere(connection)
                            + " (they appear when an instance starts: brume serve; or run what brume schema prints)",
                    null);
        }
    }

    /** A person who looks in the wrong schema is told the right one. */
    private String elsewhere(Connection connection) {
        List<String> found = statements(connection).query("""
                        select table_schema
                        from information_schema.tables
                        where lower(table_name) = concat('brume', '_job')
                        order by table_schema""", row -> row.text(1)).stream()
                .filter(name -> schema.filter(name::equalsIgnoreCase).isEmpty())
                .toList();
        if (found.isEmpty()) {
            return "";
        }
        return dialect == Dialect.MARIADB
                ? "; there are some in the database " + String.join(", ", found)
                : "; there are some in schema " + String.join(", ", found) + " (say which: --schema " + found.get(0)
                        + ")";
    }

    private Statements statements(Connection connection) {
        return new Statements(connection, dialect, naming);
    }

    /**
     * Applies what is missing.
     *
     * @param creates whether tables are made where there are none; else that is refused
     * @param more opens a second connection: where the database commits at every DDL statement, the lock is held on one
     *     and the scripts run on the other
     */
    void migrate(Connection connection, Connections more, boolean creates) throws SQLException {
        Statements statements = statements(connection);
        Optional<Map<Integer, String>> applied = applied(statements);
        if (applied.isEmpty() && !creates) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "there are no tables of Brume in " + description
                            + schema.map(name -> ", schema " + name).orElse("") + elsewhere(connection)
                            + ", so nothing was changed (they appear when an instance starts: brume serve)",
                    null);
        }
        if (applied.isPresent() && isCurrent(applied.get())) {
            return;
        }
        createHistory(connection, statements);
        connection.setAutoCommit(false);
        try {
            lockHistory(connection, statements);
            if (dialect.commitsAtDdl()) {
                try (Connection second = more.open()) {
                    second.setAutoCommit(true);
                    applyMissing(statements(second));
                }
            } else {
                applyMissing(statements);
            }
            connection.commit();
        } catch (RuntimeException | SQLException e) {
            connection.rollback();
            throw e;
        } finally {
            connection.setAutoCommit(true);
        }
    }

    private void applyMissing(Statements statements) {
        Map<Integer, String> now = readApplied(statements);
        for (int version = 1; version <= newestKnown; version++) {
            if (!now.containsKey(version)) {
                apply(statements, version);
            }
        }
    }

    private boolean isCurrent(Map<Integer, String> applied) {
        int newest = applied.keySet().stream().max(Integer::compare).orElse(0);
        refuseDrafts(applied);
        if (newest > newestKnown + 1) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "the schema of " + description + " is version " + newest + ", newer than this software's "
                            + newestKnown + ": update the software",
                    null);
        }
        for (int version = 2; version <= newestKnown; version++) {
            if (isInAnotherForm(version, applied)) {
                throw new StoreException(
                        Trouble.SCHEMA,
                        "script V" + version + " of " + description
                                + " was applied in another form than this software has: compare the two before going on",
                        null);
            }
        }
        if (newest > newestKnown) {
            LOG.info("{}: the schema is of the next version, which this software works beside", description);
        }
        return newest >= newestKnown;
    }

    /** Before the first release, the first script changed from draft to draft; none of them goes on. */
    private void refuseDrafts(Map<Integer, String> applied) {
        if (isInAnotherForm(1, applied)) {
            throw new StoreException(
                    Trouble.SCHEMA,
                    "script V1 of " + description
                            + " was applied in another form than this software has. Tables that a draft from before the first release has"
                            + " made cannot be used any more: write out what you need with that draft (brume export), then begin in "
                            + (schema.isPresent() ? "another schema" : "another folder, database or schema")
                            + ", or drop them",
                    null);
        }
    }

    private boolean isInAnotherForm(int version, Map<Integer, String> applied) {
        return applied.containsKey(version) && !applied.get(version).equals(checksum(scripts.apply(version)));
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
        statements.query("select version, checksum from brume_schema", row -> applied.put(row.integer(1), row.text(2)));
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
                    "insert into brume_schema (version, checksum, applied_at) values (0, 'lock', ?)", Instant.EPOCH);
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

    /** Waits until no other starter is at it, longer than any database waits for a lock by itself. */
    private static void lockHistory(Connection connection, Statements statements) throws SQLException {
        long until = System.nanoTime() + PATIENCE.toNanos();
        while (true) {
            try {
                statements.query(
                        "select version from brume_schema where version = 0 for update", row -> row.integer(1));
                return;
            } catch (Statements.UncheckedSql e) {
                if (SqlErrors.troubleOf(e) != Trouble.CONFLICT || System.nanoTime() - until >= 0) {
                    throw e;
                }
                connection.rollback();
            }
        }
    }

    private void apply(Statements statements, int version) {
        String script = scripts.apply(version);
        if (dialect.takesScripts()) {
            statements.execute(script);
        } else {
            Stream.of(withoutDelimiters(script).replaceAll("(?m)^--.*$", "").split(";\\s*\n"))
                    .filter(statement -> !statement.isBlank())
                    .forEach(statement -> execute(statements, statement));
        }
        statements.update(
                "insert into brume_schema (version, checksum, applied_at) values (?, ?, " + dialect.clock() + ")",
                version,
                checksum(script));
    }

    /** The script marks statements with semicolons inside for the database's own client; here they are split at those marks. */
    private static String withoutDelimiters(String script) {
        return script.replaceAll("(?m)^delimiter .*$", "").replace(" //\n", ";\n");
    }

    /** A trigger needs a right that an application may well not have; the tables work without it. */
    private void execute(Statements statements, String statement) {
        try {
            statements.execute(statement);
        } catch (Statements.UncheckedSql e) {
            boolean denied = TRIGGER_DENIED.contains(e.sql().getErrorCode());
            if (!denied || !statement.stripLeading().startsWith("create trigger")) {
                throw e;
            }
            LOG.warn(
                    "{}: the database user may not create triggers, so the ledger is insert-only by convention alone: {}",
                    description,
                    e.sql().getMessage());
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
