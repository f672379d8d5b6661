package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import org.h2.api.Trigger;

/** Keeps the ledger insert-only on H2, whose triggers are Java; the schema's scripts name it. */
public final class ClosedLedger implements Trigger {
    private boolean deletes;

    /** Creates a trigger; H2 does. */
    public ClosedLedger() {
        // What it guards against comes with init.
    }

    @Override
    public void init(Connection connection, String schema, String trigger, String table, boolean before, int type) {
        deletes = type == DELETE;
    }

    @Override
    public void fire(Connection connection, Object[] oldRow, Object[] newRow) throws SQLException {
        if (deletes && isRetention(connection)) {
            return;
        }
        throw new SQLException(
                deletes
                        ? "brume_ledger is insert-only: retention alone removes lines"
                        : "brume_ledger is insert-only: a line never changes",
                "45000");
    }

    private static boolean isRetention(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet said = statement.executeQuery("select @brume_retention")) {
            return said.next() && said.getInt(1) == 1;
        }
    }
}
