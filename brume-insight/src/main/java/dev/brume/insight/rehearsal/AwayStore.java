package dev.brume.insight.rehearsal;

import dev.brume.StoreException;
import dev.brume.spi.Store;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.util.Set;
import java.util.function.BooleanSupplier;

/** A store that cannot be reached at times. */
final class AwayStore {
    /** What needs no connection. */
    private static final Set<String> HERE = Set.of(
            "close",
            "description",
            "forget",
            "releaseReserved",
            "locksRowsAlone",
            "fit",
            "concerns",
            "callsAtEnds",
            "wakeUps",
            "wake",
            "awaitEnds",
            "callAtEnds",
            "toString",
            "hashCode",
            "equals");

    private AwayStore() {}

    /** {@return a store that cannot be reached while something says that it is away} */
    static Store of(Store store, BooleanSupplier away) {
        return (Store) Proxy.newProxyInstance(
                Store.class.getClassLoader(), new Class<?>[] {Store.class}, (proxy, method, args) -> {
                    if (!HERE.contains(method.getName()) && away.getAsBoolean()) {
                        throw new StoreException(
                                StoreException.Trouble.UNREACHABLE, "the database is away", /* cause= */ null);
                    }
                    try {
                        return method.invoke(store, args);
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                });
    }
}
