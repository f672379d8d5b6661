package dev.brume.benchmarks;

import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.Statement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import javax.sql.DataSource;

/** A pool whose connections note which statement each thread made when. */
final class StartTrace {
    private final Map<Thread, List<Step>> open = new ConcurrentHashMap<>();
    private final List<List<Step>> committed = new ArrayList<>();

    /**
     * A call to the database.
     *
     * @param what the statement, or "commit"
     * @param begin when it was made
     * @param end when it was answered
     */
    record Step(String what, Instant begin, Instant end) {}

    /** The transactions that were committed since, with all their statements; forgets them. */
    List<List<Step>> take() {
        synchronized (committed) {
            List<List<Step>> all = List.copyOf(committed);
            committed.clear();
            return all;
        }
    }

    DataSource around(DataSource source) {
        return proxy(
                DataSource.class,
                source,
                (method, result) -> result instanceof Connection connection ? around(connection) : result);
    }

    private Connection around(Connection connection) {
        return (Connection) Proxy.newProxyInstance(
                StartTrace.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, arguments) -> {
                    Instant begin = Instant.now();
                    Object result = invoke(method, connection, arguments);
                    switch (method.getName()) {
                        case "commit" -> {
                            note("commit", begin);
                            finish();
                        }
                        case "rollback" -> open.remove(Thread.currentThread());
                        default -> {}
                    }
                    if (result instanceof PreparedStatement statement) {
                        String sql = (String) arguments[0];
                        return around(PreparedStatement.class, statement, sql);
                    }
                    return result instanceof Statement statement ? around(Statement.class, statement, "") : result;
                });
    }

    private <T extends Statement> T around(Class<T> type, T statement, String sql) {
        InvocationHandler handler = (proxy, method, arguments) -> {
            Instant begin = Instant.now();
            Object result = invoke(method, statement, arguments);
            if (method.getName().startsWith("execute")) {
                note(arguments != null && arguments.length > 0 ? arguments[0].toString() : sql, begin);
            }
            return result;
        };
        return type.cast(Proxy.newProxyInstance(StartTrace.class.getClassLoader(), new Class<?>[] {type}, handler));
    }

    private interface Wrapping {
        Object wrap(Method method, Object result);
    }

    private static <T> T proxy(Class<T> type, T target, Wrapping wrapping) {
        return type.cast(Proxy.newProxyInstance(
                StartTrace.class.getClassLoader(),
                new Class<?>[] {type},
                (proxy, method, arguments) -> wrapping.wrap(method, invoke(method, target, arguments))));
    }

    private static Object invoke(Method method, Object target, Object[] arguments) throws Throwable {
        try {
            return method.invoke(target, arguments);
        } catch (InvocationTargetException e) {
            throw e.getCause();
        }
    }

    private void note(String what, Instant begin) {
        open.computeIfAbsent(Thread.currentThread(), thread -> new ArrayList<>())
                .add(new Step(what, begin, Instant.now()));
    }

    private void finish() {
        List<Step> steps = open.remove(Thread.currentThread());
        synchronized (committed) {
            committed.add(List.copyOf(steps));
        }
    }
}
