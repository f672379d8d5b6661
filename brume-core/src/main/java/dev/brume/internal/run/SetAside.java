package dev.brume.internal.run;

import dev.brume.StoreException;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import java.util.function.Function;
import java.util.function.LongSupplier;
import java.util.function.ToIntFunction;

/**
 * Rows that were set aside because they threw while the others of their batch did not. Each is tried again after growing times. Confined to the
 * thread of one duty.
 *
 * @param <K> what tells one from another
 */
public final class SetAside<K> {
    private static final Duration FIRST = Duration.ofSeconds(1);
    private static final int MOST_DOUBLINGS = 9;
    private static final int MOST = 10_000;

    private final Map<K, Entry> entries = new HashMap<>();

    /**
     * Why and until when.
     *
     * @param times how often it threw in a row
     */
    private record Entry(int times, long untilNanos, String reason) {}

    /** The consequence of a failure. */
    public record Verdict(Duration pause, String reason, boolean isNews) {}

    /**
     * Does each by itself, since together they threw: what throws alone is set aside and told, the others go on.
     *
     * @return the sum of what the steps came to
     * @param nanos a clock that never goes back
     * @throws RuntimeException what the store, and not one of them, is to blame for
     */
    public <E> int oneByOne(
            List<E> all, Function<E, K> key, LongSupplier nanos, ToIntFunction<E> step, BiConsumer<E, Verdict> tell) {
        int sum = 0;
        for (E each : all) {
            if (waits(key.apply(each), nanos.getAsLong())) {
                continue;
            }
            try {
                sum += step.applyAsInt(each);
                worked(key.apply(each));
            } catch (RuntimeException | StackOverflowError e) {
                if (!isOfOne(e)) {
                    throw e;
                }
                tell.accept(each, failed(key.apply(each), e, nanos.getAsLong()));
            }
        }
        return sum;
    }

    /** Notes that one threw. */
    public Verdict failed(K key, Throwable why, long nanos) {
        Optional<Entry> before = Optional.ofNullable(entries.get(key));
        int times = before.map(Entry::times).orElse(0);
        Duration wait = FIRST.multipliedBy(1L << Math.min(times, MOST_DOUBLINGS));
        String reason = reason(why);
        if (entries.size() >= MOST) {
            entries.clear();
        }
        entries.put(key, new Entry(times + 1, nanos + wait.toNanos(), reason));
        return new Verdict(
                wait,
                reason,
                before.filter(entry -> entry.reason.equals(reason)).isEmpty());
    }

    /**
     * Notes that one went well.
     *
     * @return whether it had been set aside
     */
    public boolean worked(K key) {
        return entries.remove(key) != null;
    }

    /** {@return whether one is not to be tried yet} */
    public boolean waits(K key, long nanos) {
        Entry entry = entries.get(key);
        return entry != null && nanos - entry.untilNanos < 0;
    }

    public int size() {
        return entries.size();
    }

    /** {@return whether any is not to be tried yet} */
    public boolean anyWaits(long nanos) {
        return entries.values().stream().anyMatch(entry -> nanos - entry.untilNanos < 0);
    }

    private static String reason(Throwable why) {
        String text = why instanceof StoreException ? String.valueOf(why.getMessage()) : why.toString();
        return text.lines().findFirst().orElse("");
    }

    /**
     * {@return whether something that was thrown may be the fault of one thing in a batch, rather than of the store, of others in
     * the way or of the virtual machine}
     */
    public static boolean isOfOne(Throwable thrown) {
        if (thrown instanceof StoreException store) {
            return store.trouble() == StoreException.Trouble.OTHER;
        }
        return thrown instanceof RuntimeException || thrown instanceof StackOverflowError;
    }
}
