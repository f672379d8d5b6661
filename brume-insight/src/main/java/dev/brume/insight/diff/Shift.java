package dev.brume.insight.diff;

import dev.brume.Job;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.TreeMap;
import java.util.stream.Stream;

/**
 * How a job's coming occurrences move when its definition changes.
 *
 * @param from inclusive
 * @param until exclusive; sooner than asked for if there would be too many to look at
 * @param before how many the old definition owes
 * @param after how many the new one owes
 * @param gone those that are owed no more, earliest first
 * @param added those that were not owed before, earliest first
 * @since 0.1.0
 */
public record Shift(Instant from, Instant until, int before, int after, List<Occurrence> gone, List<Occurrence> added) {
    private static final int MOST = 20_000;

    /**
     * Compares.
     *
     * @param until how far to look, exclusive
     */
    static Shift of(Job before, Job after, Instant from, Instant until) {
        List<Occurrence> old = owed(before, from, until);
        List<Occurrence> next = owed(after, from, until);
        Instant end = earlier(old, earlier(next, until));
        TreeMap<Instant, Occurrence> gone = byInstant(old, end);
        TreeMap<Instant, Occurrence> added = byInstant(next, end);
        int olds = gone.size();
        int news = added.size();
        List<Instant> both = gone.keySet().stream().filter(added::containsKey).toList();
        both.forEach(gone::remove);
        both.forEach(added::remove);
        return new Shift(from, end, olds, news, List.copyOf(gone.values()), List.copyOf(added.values()));
    }

    private static List<Occurrence> owed(Job job, Instant from, Instant until) {
        if (!job.enabled()) {
            return List.of();
        }
        try (Stream<Occurrence> stream = job.timeline().between(from, until)) {
            return stream.limit(MOST).toList();
        }
    }

    /** Where not all could be looked at, what lies beyond the last is left out on both sides. */
    private static Instant earlier(List<Occurrence> seen, Instant until) {
        return seen.size() < MOST ? until : min(seen.get(MOST - 1).instant(), until);
    }

    private static Instant min(Instant a, Instant b) {
        return a.isBefore(b) ? a : b;
    }

    private static TreeMap<Instant, Occurrence> byInstant(Collection<Occurrence> occurrences, Instant until) {
        TreeMap<Instant, Occurrence> map = new TreeMap<>();
        occurrences.stream()
                .filter(each -> each.instant().isBefore(until))
                .forEach(each -> map.put(each.instant(), each));
        return map;
    }

    /** {@return whether all stays where it is} */
    public boolean isNone() {
        return gone.isEmpty() && added.isEmpty();
    }
}
