package dev.brume.http.internal.console;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.Executor;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;

/**
 * Several of a kind that take long to work out, such as boards; few are kept, and the one that was asked for longest ago goes first. Safe for use by
 * many threads.
 */
final class Shelf<K, V> {
    private static final int MOST_KEPT = 6;
    private static final long A_MINUTE = 60_000_000_000L;

    private final LongSupplier nanos;
    private final ToLongFunction<K> freshNanos;
    private final Executor behind;

    private final Map<K, Kept<V>> kept = new LinkedHashMap<>(16, 0.75f, /* accessOrder= */ true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<K, Kept<V>> eldest) {
            return size() > MOST_KEPT;
        }
    };

    /** Creates one whose things are kept as {@link Kept} says, useful for a minute after they were fresh. */
    Shelf(LongSupplier nanos, ToLongFunction<K> freshNanos, Executor behind) {
        this.nanos = nanos;
        this.freshNanos = freshNanos;
        this.behind = behind;
    }

    V get(K key, Supplier<V> computing) {
        return kept(key).get(computing);
    }

    private synchronized Kept<V> kept(K key) {
        long fresh = freshNanos.applyAsLong(key);
        return kept.computeIfAbsent(key, any -> new Kept<>(nanos, fresh, fresh + A_MINUTE, behind));
    }
}
