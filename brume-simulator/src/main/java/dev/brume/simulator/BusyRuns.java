package dev.brume.simulator;

import dev.brume.spi.Awaited;
import dev.brume.spi.Transaction;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.util.Collection;
import java.util.Map;
import java.util.Set;
import java.util.function.BooleanSupplier;
import java.util.stream.Collectors;

/**
 * Steps in which live runs are at times found locked, as they are where transactions overlap. In memory they come one after the other: an end
 * that is under way here is one that commits next, without a look at who waits.
 */
final class BusyRuns {
    private final Transaction tx;
    private final BooleanSupplier busy;

    BusyRuns(Transaction tx, BooleanSupplier busy) {
        this.tx = tx;
        this.busy = busy;
    }

    Transaction steps() {
        return (Transaction) Proxy.newProxyInstance(
                Transaction.class.getClassLoader(), new Class<?>[] {Transaction.class}, (proxy, method, args) -> {
                    if (method.getName().equals("await") && busy.getAsBoolean()) {
                        Set<Long> jobs = ((Collection<?>) args[0])
                                .stream().map(Long.class::cast).collect(Collectors.toSet());
                        return new Awaited(Map.of(), jobs);
                    }
                    try {
                        return method.invoke(tx, args);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }
}
