package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Problem;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executor;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicReference;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Something that takes long to work out, for all who ask within a while. Who asks when it is not fresh any more gets what was known, and it is worked
 * out anew behind them; only where nothing is known, or nothing that is still of use, one works it out and the others wait. Safe for use by many
 * threads.
 */
final class Kept<T> {
    private static final Logger LOG = LoggerFactory.getLogger(Kept.class);
    private static final long PATIENCE_SECONDS = 20;

    private final LongSupplier nanos;
    private final long freshNanos;
    private final long usefulNanos;
    private final Executor behind;
    private final ReentrantLock lock = new ReentrantLock();
    private final AtomicReference<@Nullable CompletableFuture<Void>> renewing = new AtomicReference<>();
    private volatile @Nullable Known<T> known;

    private record Known<T>(T value, long at) {}

    /**
     * Creates it.
     *
     * @param nanos a clock that only goes on
     * @param freshNanos how long it is not worked out again
     * @param usefulNanos how long it may be told while it is worked out again
     * @param behind where that is done
     */
    Kept(LongSupplier nanos, long freshNanos, long usefulNanos, Executor behind) {
        this.nanos = nanos;
        this.freshNanos = freshNanos;
        this.usefulNanos = usefulNanos;
        this.behind = behind;
    }

    T get(Supplier<T> computing) {
        Known<T> last = known;
        if (isWithin(freshNanos, last)) {
            return last.value;
        }
        if (isWithin(usefulNanos, last)) {
            renew(computing);
            return last.value;
        }
        return compute(computing);
    }

    /**
     * {@return what is known and still useful; it is worked out behind whoever asks if it is not fresh}
     *
     * @param patienceMillis how long to wait for that where nothing is known
     */
    Optional<T> known(Supplier<T> computing, long patienceMillis) {
        if (isWithin(freshNanos, known)) {
            return useful();
        }
        CompletableFuture<Void> renewed = renew(computing);
        if (useful().isEmpty()) {
            try {
                renewed.get(patienceMillis, TimeUnit.MILLISECONDS);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } catch (ExecutionException | TimeoutException e) {
                LOG.debug("nothing is known yet", e);
            }
        }
        return useful();
    }

    private Optional<T> useful() {
        return Optional.ofNullable(known)
                .filter(last -> isWithin(usefulNanos, last))
                .map(Known::value);
    }

    /** One at a time; what goes wrong is tried again by the next who asks, and told once nothing useful is known any more. */
    private CompletableFuture<Void> renew(Supplier<T> computing) {
        CompletableFuture<Void> mine = new CompletableFuture<>();
        CompletableFuture<Void> others = renewing.compareAndExchange(null, mine);
        if (others != null) {
            return others;
        }
        try {
            behind.execute(() -> {
                try {
                    compute(computing);
                } catch (RuntimeException e) {
                    LOG.debug("what is known could not be worked out anew", e);
                } finally {
                    renewing.set(null);
                    mine.complete(null);
                }
            });
        } catch (RejectedExecutionException stopping) {
            LOG.debug("nothing is worked out anew any more", stopping);
            renewing.set(null);
            mine.complete(null);
        }
        return mine;
    }

    private T compute(Supplier<T> computing) {
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
            Known<T> last = known;
            if (!isWithin(freshNanos, last)) {
                last = new Known<>(computing.get(), nanos.getAsLong());
                known = last;
            }
            return last.value;
        } finally {
            lock.unlock();
        }
    }

    private boolean isWithin(long age, @Nullable Known<T> some) {
        return some != null && nanos.getAsLong() - some.at < age;
    }
}
