package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Sees to it that H2 keeps what it has acknowledged, and says where it may not. */
final class H2Manners {
    /** Kinds of files of H2's that outlive an interrupt. */
    private static final List<String> SAFE_FILES = List.of("async:", "retry:");

    private H2Manners() {}

    /**
     * Makes the settings that a killed process needs.
     *
     * @param turn that writers are to take
     * @param mayChange whether settings may be changed; otherwise they are only looked at
     * @return what must be known before this database is trusted, each a sentence of its own
     */
    static List<String> settle(Connection connection, WritingTurn turn, boolean mayChange) throws SQLException {
        Optional<String> file = file(connection);
        if (file.isEmpty()) {
            return List.of();
        }
        List<String> concerns = new ArrayList<>();
        H2Version version = H2Version.of(connection);
        if (version.verdict() != H2Version.Verdict.KEEPS) {
            concerns.add(version.words() + "; " + H2Version.wayOut());
        }
        if (!turn.isAllowed(connection)) {
            concerns.add(
                    "writers cannot take turns, since the table brume_turn is not there or not this database user's own, so a process"
                            + " that is killed may leave half of a transaction; create it as brume schema h2 prints it, and let"
                            + " its owner run this");
        }
        if (isClosedByAnInterrupt(file.get(), connection)) {
            concerns.add(
                    "a thread that is interrupted while it writes closes this file of H2's to the whole process, and handlers are interrupted"
                            + " at their time limit; write the URL as jdbc:h2:async:PATH");
        }
        if (mayChange) {
            writeThrough(connection, concerns);
        }
        return List.copyOf(concerns);
    }

    /** {@return the file that the database is in, unless it is in memory alone} */
    private static Optional<String> file(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("select database_path()")) {
            return rows.next() ? Optional.ofNullable(rows.getString(1)) : Optional.empty();
        }
    }

    /** {@return whether this process opens the file itself, and as one that an interrupt closes} */
    private static boolean isClosedByAnInterrupt(String file, Connection connection) throws SQLException {
        String url = connection.getMetaData().getURL();
        return SAFE_FILES.stream().noneMatch(file::startsWith)
                && !url.startsWith("jdbc:h2:tcp:")
                && !url.startsWith("jdbc:h2:ssl:");
    }

    /** H2 puts commits on disk half a second late by default; a killed process would lose them. */
    private static void writeThrough(Connection connection, List<String> concerns) {
        try (Statement statement = connection.createStatement()) {
            statement.execute("set write_delay 0");
        } catch (SQLException e) {
            concerns.add(
                    "this database user may not set WRITE_DELAY to 0, so a killed process may lose its last commits;"
                            + " let an administrator run SET WRITE_DELAY 0, or add ;WRITE_DELAY=0 to the URL ("
                            + String.valueOf(e.getMessage()).lines().findFirst().orElse("") + ")");
        }
    }
}
