package dev.brume.tests;

import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicReference;
import javax.sql.DataSource;

/** A data source whose next commit can be made to lose its answer, or to be lost before it gets there. */
final class TroubledSource extends WrappedSource {
    /** What happens to a commit. */
    enum Fate {
        /** Nothing special. */
        ARRIVES,
        /** It is carried out, but the connection dies before the answer. */
        ANSWER_LOST,
        /** The same, and nobody can be reached afterwards. */
        CUT_OFF,
        /** The connection dies before it is carried out. */
        LOST
    }

    private final AtomicReference<Fate> next = new AtomicReference<>(Fate.ARRIVES);
    private volatile boolean unreachable;

    TroubledSource(DataSource source) {
        super(source);
    }

    /** Decides on the next commit. */
    void next(Fate fate) {
        next.set(fate);
    }

    /** Ends being cut off. */
    void reconnect() {
        unreachable = false;
    }

    @Override
    public Connection getConnection() throws SQLException {
        if (unreachable) {
            throw new SQLException("cut off", "08001");
        }
        return super.getConnection();
    }

    @Override
    protected Connection around(Connection connection) {
        return (Connection) Proxy.newProxyInstance(
                TroubledSource.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, args) -> {
                    if (method.getName().equals("commit")) {
                        return commit(connection);
                    }
                    try {
                        return method.invoke(connection, args);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }

    private Object commit(Connection connection) throws SQLException {
        Fate fate = next.getAndSet(Fate.ARRIVES);
        if (fate == Fate.LOST) {
            connection.rollback();
        } else {
            connection.commit();
        }
        unreachable |= fate == Fate.CUT_OFF;
        if (fate != Fate.ARRIVES) {
            throw new SQLException("the connection died", "08006");
        }
        return null;
    }
}
