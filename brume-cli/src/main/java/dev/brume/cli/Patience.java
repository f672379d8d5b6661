package dev.brume.cli;

import dev.brume.StoreException;
import java.time.Duration;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Predicate;
import java.util.function.Supplier;

/** Looks again and again until something has come about, or time is up. */
final class Patience {
    private static final long PAUSE_NANOS = TimeUnit.MILLISECONDS.toNanos(200);

    private Patience() {}

    /**
     * {@return what was seen last}
     *
     * <p>The owner of an embedded database may leave while it is looked at; whoever looks next finds another, or owns it.
     *
     * @param most how long; zero for a single look
     * @throws StoreException if the database is not back by then
     */
    static <T> T look(Duration most, Supplier<T> looking, Predicate<T> over) {
        long until = System.nanoTime() + most.toNanos();
        while (true) {
            try {
                T seen = looking.get();
                if (over.test(seen) || System.nanoTime() - until >= 0) {
                    return seen;
                }
            } catch (StoreException e) {
                if (e.trouble() != StoreException.Trouble.UNREACHABLE || System.nanoTime() - until >= 0) {
                    throw e;
                }
            }
            LockSupport.parkNanos(PAUSE_NANOS);
        }
    }
}
