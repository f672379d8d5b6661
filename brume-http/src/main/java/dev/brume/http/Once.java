package dev.brume.http;

import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** A value that is made when it is first asked for. Safe for use by many threads. */
final class Once<T> implements Supplier<T> {
    private final Supplier<T> making;
    private @Nullable T made;

    Once(Supplier<T> making) {
        this.making = making;
    }

    @Override
    public synchronized T get() {
        T value = made;
        if (value == null) {
            value = making.get();
            made = value;
        }
        return value;
    }
}
