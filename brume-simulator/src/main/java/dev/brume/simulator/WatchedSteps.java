package dev.brume.simulator;

import dev.brume.Outcome;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.Pause;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.spi.Ended;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.NewJob;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffSteps;
import dev.brume.spi.OrderSteps;
import dev.brume.spi.Redefinition;
import dev.brume.spi.Renewal;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.SessionLease;
import dev.brume.spi.SessionSteps;
import dev.brume.spi.Transaction;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/** Takes down for the checker what the steps of a transaction did, to be told once it has committed. */
final class WatchedSteps {
    private final Transaction tx;
    private final InvariantChecker checker;
    private final List<Runnable> notes = new ArrayList<>();
    private Instant committed = Instant.MAX;
    private int definitions;
    private int changes;

    WatchedSteps(Transaction tx, InvariantChecker checker) {
        this.tx = tx;
        this.checker = checker;
    }

    Transaction watched() {
        return proxy(Transaction.class, tx, this::note);
    }

    /** Takes down what time it is; to be called as the last step. */
    void last() {
        committed = tx.now();
    }

    /** Tells the checker; to be called when the transaction has committed. */
    void committed() {
        notes.forEach(Runnable::run);
        checker.committed(definitions, changes);
    }

    private interface After {
        Object see(String step, Object[] args, Object result);
    }

    private static <T> T proxy(Class<T> type, T target, After after) {
        return type.cast(Proxy.newProxyInstance(
                type.getClassLoader(),
                new Class<?>[] {type},
                (proxy, method, args) -> after.see(method.getName(), args, call(target, method, args))));
    }

    private static Object call(Object target, Method method, Object[] args) throws Throwable {
        try {
            return method.invoke(target, args);
        } catch (InvocationTargetException e) {
            throw e.getCause();
        }
    }

    @SuppressWarnings("unchecked")
    private Object note(String step, Object[] args, Object result) {
        switch (step) {
            case "oneOffs" -> {
                return proxy(OneOffSteps.class, (OneOffSteps) result, this::noteOneOff);
            }
            case "sessions" -> {
                return proxy(SessionSteps.class, (SessionSteps) result, this::noteSession);
            }
            case "orders" -> {
                return proxy(OrderSteps.class, (OrderSteps) result, this::noteOrder);
            }
            case "addRuns" -> {
                Collection<RunRow> runs = (Collection<RunRow>) args[0];
                Map<Long, Integer> caps =
                        caps(runs.stream().map(run -> run.owed().job()).toList());
                notes.add(() -> runs.forEach(run -> checker.added(
                        List.of(run), Objects.requireNonNull(caps.get(run.owed().job())), committed)));
            }
            case "addLines" -> notes.add(() -> checker.skipped((Collection<LedgerLine>) args[0]));
            case "addSpans" -> notes.add(() -> checker.passedOver((Collection<Span>) args[0]));
            case "claim" -> notes.add(() -> ((Collection<RunRow>) result).forEach(checker::leased));
            case "end" -> notes.add(() -> checker.ended((Collection<RunEnd>) args[0], ((Ended) result).accepted()));
            case "release" ->
                notes.add(() -> checker.released((Collection<RunRelease>) args[0], (Set<LeaseKey>) result));
            case "letGo" -> notes.add(() -> checker.letGo((Collection<Long>) args[0], (Instant) args[1]));
            case "addJobs" -> addJobs((List<NewJob>) args[0], (List<Long>) result);
            case "redefine" -> {
                List<Redefinition> redefined = (List<Redefinition>) args[0];
                definitions += redefined.size();
                notes.add(() -> redefined.forEach(
                        change -> checker.defined(change.id(), change.number(), change.job(), change.at())));
            }
            case "drop" -> {
                JobRow row = Objects.requireNonNull(
                        tx.lockJobsById(List.of((Long) args[0])).get((Long) args[0]));
                definitions++;
                notes.add(() -> checker.dropped(row.id(), row.cursor()));
            }
            case "addChanges" -> changes += ((Collection<?>) args[0]).size();
            default -> {
                // Every other step changes nothing that the checker keeps books on.
            }
        }
        return result;
    }

    private Object noteOneOff(String step, Object[] args, Object result) {
        if (step.equals("add") && Boolean.TRUE.equals(result)) {
            notes.add(() -> checker.ordered((OneOffOrder) args[0]));
        } else if (step.equals("replace")) {
            notes.add(() -> checker.replaced((OneOffOrder) args[0], (OneOffOrder) args[1]));
        } else if (step.equals("remove")) {
            notes.add(() -> checker.removed((OneOffOrder) args[0]));
        }
        return result;
    }

    @SuppressWarnings("unchecked")
    private Object noteSession(String step, Object[] args, Object result) {
        if (step.equals("add")) {
            SessionRow opened = (SessionRow) args[0];
            notes.add(() -> checker.opened(opened.instance(), opened.id()));
        } else if (step.equals("renew")) {
            ((Optional<Renewal>) result)
                    .ifPresent(renewal -> notes.add(() -> checker.renewed(((SessionLease) args[0]).session())));
        } else if (step.equals("mark") && args[1] == SessionRow.State.LAPSED) {
            notes.add(() -> checker.lapsed((UUID) args[0]));
        }
        return result;
    }

    private Object noteOrder(String step, Object[] args, Object result) {
        if (step.equals("endWaiting") && Boolean.TRUE.equals(result)) {
            notes.add(() -> checker.endedWaiting((Long) args[0], (Outcome) args[1]));
        } else if (step.equals("endPauses")) {
            notes.add(() -> checker.resumed((Pause.Scope) args[0], (Instant) args[1]));
        } else if (step.equals("takeBackPauses")) {
            notes.add(() -> checker.tookBackPauses((Pause.Scope) args[0], (Instant) args[2]));
        }
        return result;
    }

    private void addJobs(List<NewJob> jobs, List<Long> ids) {
        definitions += jobs.size();
        for (int i = 0; i < jobs.size(); i++) {
            long id = ids.get(i);
            NewJob added = jobs.get(i);
            Instant at = added.at();
            notes.add(() -> checker.defined(id, 1, added.job(), at));
        }
    }

    private Map<Long, Integer> caps(Collection<Long> jobs) {
        Map<Long, Integer> caps = new HashMap<>();
        for (JobRow row : tx.lockJobsById(jobs).values()) {
            caps.put(row.id(), row.cap());
        }
        return caps;
    }
}
