package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Pattern;
import org.h2.api.Trigger;

/**
 * Keeps the ledger, what belongs to it, its seals and the change log insert-only on H2, whose triggers are Java; the schema's scripts name it.
 *
 * @since 0.1.0
 */
public final class ClosedLedger implements Trigger {
    /** The tables that retention may remove from. */
    private static final Set<String> KEPT =
            Set.of("brume_ledger", "brume_span", "brume_content", "brume_output", "brume_erasure");

    /** A table that gets another column is copied, and its triggers begin on the copy. */
    private static final Pattern COPY = Pattern.compile("_copy_\\d+_\\d+$");

    private boolean deletes;
    private String closed = "";

    /** Creates a trigger; H2 does. */
    public ClosedLedger() {
        // The table it guards is given to init.
    }

    @Override
    public void init(Connection connection, String schema, String trigger, String table, boolean before, int type) {
        deletes = type == DELETE;
        closed = COPY.matcher(table.toLowerCase(Locale.ROOT)).replaceFirst("");
    }

    @Override
    public void fire(Connection connection, Object[] oldRow, Object[] newRow) throws SQLException {
        boolean isKept = KEPT.contains(closed);
        if (deletes && isKept && isRetention(connection)) {
            return;
        }
        String rule = deletes ? isKept ? "retention alone removes rows" : "a row never goes" : "a row never changes";
        throw new SQLException(closed + " is insert-only: " + rule, "45000");
    }

    private static boolean isRetention(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet said = statement.executeQuery("select @brume_retention")) {
            return said.next() && said.getInt(1) == 1;
        }
    }
}
