package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Problem;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * Something that takes long to work out, for all who ask within a while. One works it out; those who ask meanwhile get what was known before, or wait
 * for it if nothing was. Safe for use by many threads.
 */
final class Kept<T> {
    private static final long PATIENCE_SECONDS = 20;

    private final LongSupplier nanos;
    private final long freshNanos;
    private final ReentrantLock lock = new ReentrantLock();
    private volatile @Nullable Known<T> known;

    private record Known<T>(T value, long at) {}

    /**
     * Creates it.
     *
     * @param nanos a clock that only goes on
     * @param freshNanos how long it is not worked out again
     */
    Kept(LongSupplier nanos, long freshNanos) {
        this.nanos = nanos;
        this.freshNanos = freshNanos;
    }

    T get(Supplier<T> computing) {
        Known<T> last = known;
        if (isFresh(last) || last != null && lock.isLocked()) {
            return last.value;
        }
        try {
            if (!lock.tryLock(PATIENCE_SECONDS, TimeUnit.SECONDS)) {
                throw new Problem(
                                Problem.Kind.NOT_NOW,
                                "somebody else has been asking for the same, and the store takes long")
                        .with("Retry-After", "5");
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Problem(Problem.Kind.NOT_NOW, "this instance is stopping").with("Retry-After", "5");
        }
        try {
            last = known;
            if (!isFresh(last)) {
                last = new Known<>(computing.get(), nanos.getAsLong());
                known = last;
            }
            return last.value;
        } finally {
            lock.unlock();
        }
    }

    private boolean isFresh(@Nullable Known<T> some) {
        return some != null && nanos.getAsLong() - some.at < freshNanos;
    }
}
