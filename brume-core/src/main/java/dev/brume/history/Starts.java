package dev.brume.history;

import dev.brume.Rate;
import java.time.Instant;
import java.util.Map;
import java.util.NavigableMap;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * The starts that a rate still counts, by sixtieths of its time. Immutable.
 *
 * @param counts how many in each part, by the number of the part since the epoch
 * @since 0.1.0
 */
public record Starts(SortedMap<Long, Integer> counts) {
    /** None. */
    public static final Starts NONE = new Starts(new TreeMap<>());

    private static final int PARTS = 60;
    private static final int MOST_PARTS = 3 * PARTS;

    /** {@return what {@link #toString} wrote} */
    public static Starts parse(String text) {
        SortedMap<Long, Integer> counts = new TreeMap<>();
        for (String each : text.isEmpty() ? new String[0] : text.split(",")) {
            int colon = each.indexOf(':');
            counts.put(Long.parseLong(each.substring(0, colon)), Integer.parseInt(each.substring(colon + 1)));
        }
        return new Starts(counts);
    }

    /** {@return what counts at an instant, one more start included} */
    Starts andOne(Rate rate, Instant now) {
        NavigableMap<Long, Integer> more = new TreeMap<>(counts.tailMap(part(rate, now.minus(rate.per()))));
        more.merge(part(rate, now), 1, Integer::sum);
        while (more.size() > MOST_PARTS) {
            more.pollLastEntry();
        }
        return new Starts(more);
    }

    /** What lies ahead was noted before the clock went back: it counts when it is near. */
    private Starts at(Rate rate, Instant now) {
        long first = part(rate, now.minus(rate.per()));
        long last = part(rate, now.plus(rate.per()));
        return new Starts(counts.subMap(first, last + 1));
    }

    /** {@return how many count at an instant} */
    public int count(Rate rate, Instant now) {
        return at(rate, now).counts.values().stream()
                .mapToInt(Integer::intValue)
                .sum();
    }

    /** {@return when the next may begin: now or later} */
    Instant opensAt(Rate rate, Instant now) {
        int left = count(rate, now);
        if (left < rate.starts()) {
            return now;
        }
        Instant opens = now;
        for (Map.Entry<Long, Integer> part : at(rate, now).counts.entrySet()) {
            opens = Instant.ofEpochMilli((part.getKey() + 1) * millis(rate)).plus(rate.per());
            left -= part.getValue();
            if (left < rate.starts()) {
                break;
            }
        }
        return opens;
    }

    private static long millis(Rate rate) {
        return (rate.per().toMillis() + PARTS - 1) / PARTS;
    }

    private static long part(Rate rate, Instant at) {
        return Math.floorDiv(at.toEpochMilli(), millis(rate));
    }

    @Override
    public String toString() {
        return counts.entrySet().stream()
                .map(each -> each.getKey() + ":" + each.getValue())
                .collect(Collectors.joining(","));
    }
}
