package dev.brume.jdbc;

import dev.brume.MissingRightException;
import dev.brume.ReadOnlyStoreException;
import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import dev.brume.internal.text.Texts;
import java.io.IOException;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.Set;

/** Says what an SQL error means, by its state; the one place that does. */
final class SqlErrors {
    private static final Set<String> CONFLICT = Set.of(
            "40001",
            "40P01",
            "55P03",
            "23505", // PostgreSQL and the standard: serialization, deadlock, lock, duplicate
            "HYT00",
            "90131",
            "50200", // H2: lock timeout, concurrent update, lock timeout by code
            "1205",
            "1213",
            "1020",
            "1062" // MariaDB: lock timeout, deadlock, changed since it was read, duplicate
            );
    private static final Set<String> NOT_WRITABLE = Set.of(
            "25006",
            "42501",
            "53100", // PostgreSQL: read-only, no right, disk full
            "90097",
            "90026",
            "90031",
            "90096", // H2: read-only, input or output errors, no right
            "1792",
            "1370",
            "1290",
            "1836",
            "1142",
            "1044",
            "1021",
            "1114",
            "1026" // MariaDB: read-only, no right, disk full, cannot write
            );
    private static final Set<String> READ_ONLY = Set.of("25006", "90097", "1290", "1836", "1792");
    private static final Set<String> NO_RIGHT = Set.of("42501", "90096", "1142", "1044", "1370");
    private static final Set<String> UNREACHABLE = Set.of(
            "57P01",
            "57P02",
            "57P03",
            "57014",
            "53300",
            "28000",
            "28P01",
            "3D000", // PostgreSQL
            "90067",
            "90121",
            "90098",
            "90020",
            "90013",
            "90146",
            "90117",
            "90135", // H2: broken, closed, locked, not there, being closed
            "1045",
            "1049",
            "1040",
            "1053",
            "1927",
            "1969" // MariaDB: refused, not there, too many, shutting down, killed, too slow
            );

    private static final Set<String> SCHEMA = Set.of(
            "42P01",
            "42703", // PostgreSQL: no such table, no such column
            "42102",
            "42104",
            "42122", // H2: the same
            "1146",
            "1054" // MariaDB: the same
            );

    private static final int MARIADB_DUPLICATE = 1062;
    private static final int H2_GENERAL_ERROR = 50000;

    private SqlErrors() {}

    static Trouble troubleOf(Throwable thrown) {
        for (Throwable cause = thrown; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql) {
                Trouble trouble = troubleOfState(sql);
                if (trouble != Trouble.OTHER) {
                    return trouble;
                }
            }
        }
        return Trouble.OTHER;
    }

    private static boolean isOf(Set<String> states, Throwable thrown) {
        for (Throwable cause = thrown; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql
                    && (states.contains(String.valueOf(sql.getSQLState()))
                            || states.contains(Integer.toString(sql.getErrorCode())))) {
                return true;
            }
        }
        return false;
    }

    /** {@return whether H2 came to grief inside itself over what another session did at that instant} */
    static boolean isStumble(SQLException sql) {
        return sql.getErrorCode() == H2_GENERAL_ERROR && sql.getCause() instanceof NullPointerException;
    }

    /** {@return whether a row was refused because its key is there already} */
    static boolean isDuplicate(Throwable thrown) {
        return thrown instanceof SQLException sql
                && ("23505".equals(sql.getSQLState()) || sql.getErrorCode() == MARIADB_DUPLICATE);
    }

    private static Trouble troubleOfState(SQLException sql) {
        String state = sql.getSQLState() == null ? "" : sql.getSQLState();
        String code = Integer.toString(sql.getErrorCode());
        if (CONFLICT.contains(state) || CONFLICT.contains(code)) {
            return Trouble.CONFLICT;
        }
        if (NOT_WRITABLE.contains(state) || NOT_WRITABLE.contains(code)) {
            return Trouble.NOT_WRITABLE;
        }
        if (SCHEMA.contains(state) || SCHEMA.contains(code)) {
            return Trouble.SCHEMA;
        }
        boolean connection = state.startsWith("08") || sql instanceof SQLTransientConnectionException;
        return connection || UNREACHABLE.contains(state) || UNREACHABLE.contains(code)
                ? Trouble.UNREACHABLE
                : Trouble.OTHER;
    }

    /** Wraps an error that happened before anything was committed. */
    static StoreException wrap(String description, Throwable thrown) {
        Trouble trouble = troubleOf(thrown);
        String message = describe(trouble, description) + ": " + message(thrown);
        if (isOf(READ_ONLY, thrown)) {
            return new ReadOnlyStoreException(
                    message + " (it is a replica, or the connection is set to be read-only: use a DataSource of the"
                            + " primary itself, none that chooses between servers)",
                    thrown);
        }
        if (isOf(NO_RIGHT, thrown)) {
            return new MissingRightException(
                    message
                            + " (as an administrator, apply what 'brume schema' prints for this database: the tables, and"
                            + " with --application the rights of this user; then start without schema changes)",
                    thrown);
        }
        return new StoreException(trouble, message, thrown);
    }

    /**
     * Wraps what H2 asserts of itself. Once it could not write its file, whoever uses it next goes in circles for ever, unless its
     * assertions are on; then it says so.
     *
     * @throws AssertionError if it is not H2 that asserts
     */
    static StoreException ofDatabase(String description, AssertionError thrown) {
        StackTraceElement[] trace = thrown.getStackTrace();
        if (trace.length == 0 || !trace[0].getClassName().startsWith("org.h2.")) {
            throw thrown;
        }
        return new StoreException(
                Trouble.NOT_WRITABLE,
                describe(Trouble.NOT_WRITABLE, description)
                        + ": H2 has given up on its file after an error in writing it, such as a full disk; nothing committed is"
                        + " lost, and a new process can go on once there is room",
                thrown);
    }

    /** Wraps an error of the commit itself. */
    static StoreException wrapCommit(String description, SQLException thrown) {
        Trouble trouble = troubleOf(thrown);
        Trouble known =
                trouble == Trouble.CONFLICT || trouble == Trouble.NOT_WRITABLE ? trouble : Trouble.COMMIT_UNCLEAR;
        return new StoreException(known, describe(known, description) + ": " + message(thrown), thrown);
    }

    private static String describe(Trouble trouble, String description) {
        return switch (trouble) {
            case CONFLICT -> "another transaction was in the way at " + description;
            case UNREACHABLE -> "cannot reach " + description;
            case COMMIT_UNCLEAR -> "lost the connection while committing at " + description;
            case NOT_WRITABLE -> "cannot write to " + description;
            case SCHEMA -> "the tables in " + description + " are not those of this version";
            default -> "unexpected error from " + description;
        };
    }

    /** The first line of the error itself, and what the operating system said if it comes from there. */
    private static String message(Throwable thrown) {
        Throwable own = thrown instanceof Statements.UncheckedSql unchecked ? unchecked.sql() : thrown;
        // A pool says that it timed out; the server has said why.
        while (own instanceof SQLTransientConnectionException && own.getCause() instanceof SQLException said) {
            own = said;
        }
        String message = firstLine(own).replaceAll("; SQL statement:$", "");
        for (Throwable cause = own.getCause(); cause != null; cause = cause.getCause()) {
            if (cause instanceof IOException && !message.contains(firstLine(cause))) {
                return Texts.withoutPasswords(message + " (" + firstLine(cause) + ")");
            }
        }
        return Texts.withoutPasswords(message);
    }

    private static String firstLine(Throwable thrown) {
        String text = String.valueOf(thrown.getMessage());
        int end = text.indexOf('\n');
        return end < 0 ? text : text.substring(0, end);
    }
}
