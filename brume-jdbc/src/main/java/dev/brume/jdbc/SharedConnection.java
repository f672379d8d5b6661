package dev.brume.jdbc;

import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.SQLNonTransientConnectionException;
import java.util.Set;

/**
 * A connection to a database whose owner may leave. H2 says by codes of its own that a connection is of no use any more; here that is
 * said by the standard's class of SQL states, so that every pool lets go of it instead of handing it out again for ever. Confined to one thread
 * at a time, as the connection is.
 */
final class SharedConnection implements InvocationHandler {
    /** Connection broken, object closed, database closed, called at shutdown. */
    private static final Set<Integer> BROKEN = Set.of(90067, 90007, 90098, 90121);

    private static final String CONNECTION_FAILURE = "08006";

    private final Connection connection;

    private SharedConnection(Connection connection) {
        this.connection = connection;
    }

    static Connection around(Connection connection) {
        return (Connection) Proxy.newProxyInstance(
                SharedConnection.class.getClassLoader(),
                new Class<?>[] {Connection.class},
                new SharedConnection(connection));
    }

    @Override
    public Object invoke(Object proxy, Method method, Object[] args) throws Throwable {
        try {
            return method.invoke(connection, args);
        } catch (InvocationTargetException e) {
            throw e.getCause() instanceof SQLException thrown && BROKEN.contains(thrown.getErrorCode())
                    ? new SQLNonTransientConnectionException(
                            thrown.getMessage(), CONNECTION_FAILURE, thrown.getErrorCode(), thrown)
                    : e.getCause();
        }
    }
}
