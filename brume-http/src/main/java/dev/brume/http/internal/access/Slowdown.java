package dev.brume.http.internal.access;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.LongSupplier;

/**
 * Counts the wrong tokens of each address, and says how long the next wrong one is to wait. Right ones are not asked about here. Safe for use by
 * many threads.
 */
public final class Slowdown {
    private static final int FREE = 3;
    private static final int MOST_ADDRESSES = 10_000;
    private static final long FORGOTTEN_NANOS = 600_000_000_000L;
    private static final long FIRST_MILLIS = 250;
    private static final long LONGEST_MILLIS = 8_000;

    private final LongSupplier nanos;

    /** The one that was heard of longest ago goes first. */
    private final Map<String, Wrong> wrongs = new LinkedHashMap<>(16, 0.75f, /* accessOrder= */ true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Wrong> eldest) {
            return size() > MOST_ADDRESSES;
        }
    };

    private record Wrong(int count, long last) {}

    /** Creates it, with a clock that only goes on. */
    public Slowdown(LongSupplier nanos) {
        this.nanos = nanos;
    }

    /**
     * Notes a wrong token.
     *
     * @param address it came from
     * @return how many milliseconds its answer is to wait
     */
    public synchronized long wrong(String address) {
        long now = nanos.getAsLong();
        Wrong before = wrongs.get(address);
        int count = before == null || now - before.last > FORGOTTEN_NANOS ? 1 : before.count + 1;
        wrongs.put(address, new Wrong(count, now));
        int beyond = count - FREE;
        return beyond <= 0 ? 0 : Math.min(LONGEST_MILLIS, FIRST_MILLIS << Math.min(beyond - 1, 10));
    }

    /** {@return how many wrong tokens an address has shown of late} */
    public synchronized int count(String address) {
        Wrong wrong = wrongs.get(address);
        return wrong == null || nanos.getAsLong() - wrong.last > FORGOTTEN_NANOS ? 0 : wrong.count;
    }
}
