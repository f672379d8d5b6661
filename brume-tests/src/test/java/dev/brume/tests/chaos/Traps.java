package dev.brume.tests.chaos;

import java.io.PrintWriter;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicReference;
import java.util.logging.Logger;
import javax.sql.DataSource;

/** Makes a process stand still inside a transaction of a kind, right before its commit. */
final class Traps {
    private static final Map<String, String> MARKS = Map.of("plan", "insert into", "finish", "brume_settle (");

    private final AtomicReference<String> armed = new AtomicReference<>("");
    private final Semaphore go = new Semaphore(0);

    void set(String name) {
        armed.set(name);
    }

    void go() {
        go.release();
    }

    /** Stands still here if this is the trap that is set. */
    void pass(String name) {
        String set = armed.get();
        if (!name.isEmpty() && set.equals(name) && armed.compareAndSet(set, "")) {
            System.out.println("AT " + name);
            go.acquireUninterruptibly();
        }
    }

    /** Notes what is done in each transaction. */
    private final class Watched {
        private volatile String seen = "";

        void statement(String sql) {
            if (sql.contains("brume_run (") && sql.contains(MARKS.get("plan"))) {
                seen = "plan";
            } else if (sql.contains(MARKS.get("finish"))) {
                seen = "finish";
            }
        }

        void commit() {
            String kind = seen;
            seen = "";
            pass(kind);
        }
    }

    DataSource around(DataSource source) {
        return new DataSource() {
            @Override
            public Connection getConnection() throws SQLException {
                return watched(source.getConnection());
            }

            @Override
            public Connection getConnection(String user, String password) throws SQLException {
                return watched(source.getConnection(user, password));
            }

            @Override
            public PrintWriter getLogWriter() throws SQLException {
                return source.getLogWriter();
            }

            @Override
            public void setLogWriter(PrintWriter out) throws SQLException {
                source.setLogWriter(out);
            }

            @Override
            public void setLoginTimeout(int seconds) throws SQLException {
                source.setLoginTimeout(seconds);
            }

            @Override
            public int getLoginTimeout() throws SQLException {
                return source.getLoginTimeout();
            }

            @Override
            public Logger getParentLogger() {
                return Logger.getGlobal();
            }

            @Override
            public <T> T unwrap(Class<T> type) throws SQLException {
                return source.unwrap(type);
            }

            @Override
            public boolean isWrapperFor(Class<?> type) throws SQLException {
                return source.isWrapperFor(type);
            }
        };
    }

    private Connection watched(Connection connection) {
        Watched watched = new Watched();
        return (Connection) Proxy.newProxyInstance(
                Traps.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, args) -> {
                    if (method.getName().equals("prepareStatement")) {
                        watched.statement((String) args[0]);
                    } else if (method.getName().equals("commit")) {
                        watched.commit();
                    }
                    try {
                        return method.invoke(connection, args);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }
}
