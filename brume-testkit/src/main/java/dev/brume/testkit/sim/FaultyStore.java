package dev.brume.testkit.sim;

import dev.brume.GuardedWork;
import dev.brume.port.History;
import dev.brume.port.JobRow;
import dev.brume.port.LeaseKey;
import dev.brume.port.LedgerLine;
import dev.brume.port.Outlook;
import dev.brume.port.RunEnd;
import dev.brume.port.RunRelease;
import dev.brume.port.RunRow;
import dev.brume.port.Span;
import dev.brume.port.Store;
import dev.brume.port.StoreException;
import dev.brume.port.StoreException.Trouble;
import dev.brume.port.Transaction;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * One instance's way to the store: it loses calls and answers, lets the instance die around them, and
 * shows the checker what really commits. Confined to one thread.
 */
final class FaultyStore implements Store {
    private final Store store;
    private final InvariantChecker checker;
    private final Faults faults;
    private final SplittableRandom random;

    FaultyStore(Store store, InvariantChecker checker, Faults faults, SplittableRandom random) {
        this.store = store;
        this.checker = checker;
        this.faults = faults;
        this.random = random;
    }

    /** The instance died; nothing of it may go on. */
    static final class Crash extends Error {
        private static final long serialVersionUID = 1L;

        Crash() {
            super("simulated crash", null, false, false);
        }
    }

    /** Makes a transaction roll back although its steps went well. */
    private static final class CommitLost extends RuntimeException {
        private static final long serialVersionUID = 1L;
    }

    private boolean happens(double share) {
        return random.nextDouble() < share;
    }

    private static StoreException trouble(Trouble trouble) {
        return new StoreException(trouble, "simulated: " + trouble, null);
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        if (happens(faults.crashBefore())) {
            throw new Crash();
        }
        if (happens(faults.refused())) {
            throw trouble(Trouble.UNREACHABLE);
        }
        boolean commitLost = happens(faults.commitLost());
        List<Runnable> notes = new ArrayList<>();
        T result;
        try {
            result = store.transact(tx -> {
                T value = steps.apply(watched(tx, notes));
                if (commitLost) {
                    throw new CommitLost();
                }
                return value;
            });
        } catch (CommitLost e) {
            throw trouble(Trouble.COMMIT_UNCLEAR);
        }
        notes.forEach(Runnable::run);
        if (happens(faults.crashAfter())) {
            throw new Crash();
        }
        if (happens(faults.answerLost())) {
            throw trouble(Trouble.COMMIT_UNCLEAR);
        }
        return result;
    }

    /** Notes for the checker what each step did; told only once it has committed. */
    private Transaction watched(Transaction tx, List<Runnable> notes) {
        return (Transaction) Proxy.newProxyInstance(
                Transaction.class.getClassLoader(), new Class<?>[] {Transaction.class}, (proxy, method, args) -> {
                    Object result = call(tx, method, args);
                    note(tx, method.getName(), args, result, notes);
                    return result;
                });
    }

    private static Object call(Transaction tx, Method method, Object[] args) throws Throwable {
        try {
            return method.invoke(tx, args);
        } catch (InvocationTargetException e) {
            throw e.getCause();
        }
    }

    @SuppressWarnings("unchecked")
    private void note(Transaction tx, String step, Object[] args, Object result, List<Runnable> notes) {
        switch (step) {
            case "addRuns" -> {
                Collection<RunRow> runs = (Collection<RunRow>) args[0];
                Map<Long, Integer> caps =
                        caps(tx, runs.stream().map(run -> run.owed().job()).toList());
                notes.add(() -> runs.forEach(
                        run -> checker.added(List.of(run), caps.get(run.owed().job()))));
            }
            case "addLines" -> notes.add(() -> checker.skipped((Collection<LedgerLine>) args[0]));
            case "addSpans" -> notes.add(() -> checker.passedOver((Collection<Span>) args[0]));
            case "claim" -> notes.add(() -> ((Collection<RunRow>) result).forEach(checker::leased));
            case "end" -> notes.add(() -> checker.ended((Collection<RunEnd>) args[0], (Set<LeaseKey>) result));
            case "release" ->
                notes.add(() -> checker.released((Collection<RunRelease>) args[0], (Set<LeaseKey>) result));
            case "letGo" -> {
                Collection<Long> runs = (Collection<Long>) args[0];
                notes.add(() -> checker.letGo(runs));
            }
            default -> {
                // Every other step changes nothing that the checker keeps books on.
            }
        }
    }

    private static Map<Long, Integer> caps(Transaction tx, Collection<Long> jobs) {
        Map<Long, Integer> caps = new HashMap<>();
        for (JobRow row : tx.lockJobsById(jobs).values()) {
            caps.put(row.id(), row.cap());
        }
        return caps;
    }

    @Override
    public <T> T join(Connection connection, Function<Transaction, T> steps) {
        return store.join(connection, steps);
    }

    @Override
    public void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) throws Exception {
        store.guarded(lease, limit, work, end);
    }

    @Override
    public Outlook outlook(Look look) {
        if (happens(faults.crashBefore())) {
            throw new Crash();
        }
        if (happens(faults.refused())) {
            throw trouble(Trouble.UNREACHABLE);
        }
        return store.outlook(look);
    }

    @Override
    public History history() {
        return store.history();
    }

    @Override
    public void prepare() {
        store.prepare();
    }

    @Override
    public String description() {
        return store.description();
    }

    @Override
    public void close() {
        // The store underneath outlives every instance.
    }
}
