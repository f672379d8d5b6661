package dev.brume.jdbc;

import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Set;

/** A connection whose transaction belongs to someone else: it can do everything but end it. */
final class GuardedConnection {
    private static final Set<String> FORBIDDEN = Set.of(
            "commit", "rollback", "close", "abort", "setAutoCommit", "setTransactionIsolation", "setNetworkTimeout");

    private GuardedConnection() {}

    static Connection around(Connection connection) {
        return (Connection) Proxy.newProxyInstance(
                GuardedConnection.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, args) -> {
                    boolean toSavepoint = method.getName().equals("rollback") && args != null && args.length == 1;
                    if (FORBIDDEN.contains(method.getName()) && !toSavepoint) {
                        throw new SQLException(method.getName()
                                + "() is not yours to call in a guarded transaction: it is committed when"
                                + " the work returns, and rolled back if it throws");
                    }
                    try {
                        return method.invoke(connection, args);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }
}
