package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Locale;
import org.h2.api.Trigger;

/** Keeps the ledger, and its seals, insert-only on H2, whose triggers are Java; the schema's scripts name it. */
public final class ClosedLedger implements Trigger {
    private static final String LEDGER = "brume_ledger";

    private boolean deletes;
    private String closed = LEDGER;

    /** Creates a trigger; H2 does. */
    public ClosedLedger() {
        // What it guards against comes with init.
    }

    @Override
    public void init(Connection connection, String schema, String trigger, String table, boolean before, int type) {
        deletes = type == DELETE;
        closed = table.toLowerCase(Locale.ROOT);
    }

    @Override
    public void fire(Connection connection, Object[] oldRow, Object[] newRow) throws SQLException {
        boolean ledger = closed.equals(LEDGER);
        if (deletes && ledger && isRetention(connection)) {
            return;
        }
        String rule = deletes ? ledger ? "retention alone removes lines" : "a row never goes" : "a row never changes";
        throw new SQLException(closed + " is insert-only: " + rule, "45000");
    }

    private static boolean isRetention(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet said = statement.executeQuery("select @brume_retention")) {
            return said.next() && said.getInt(1) == 1;
        }
    }
}
