package dev.brume.tests.chaos;

import dev.brume.tests.WrappedSource;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicReference;
import javax.sql.DataSource;

/** Makes a process stand still inside a transaction of a kind, right before its commit. */
final class Traps {
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
            if (sql.contains("brume_run (")) {
                seen = "plan";
            } else if (sql.contains("brume_settle (")) {
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
        return new WrappedSource(source) {
            @Override
            protected Connection around(Connection connection) {
                return watched(connection);
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
