package dev.brume.internal.session;

import dev.brume.history.SessionRow;
import dev.brume.spi.Share;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;

/**
 * Divides the jobs among the sessions that take work, lane by lane. Each session works it out by itself from the same list: a bucket goes to
 * the session with the highest number that both together hash to. So a session that comes or goes moves no bucket between the others.
 */
final class Shares {
    private static final long STEP = 0x9E3779B97F4A7C15L;

    private Shares() {}

    /**
     * {@return the share of a session}
     *
     * @param open all sessions that take work, in any order
     */
    static Share of(UUID own, List<SessionRow> open) {
        if (open.stream().allMatch(session -> session.id().equals(own))) {
            return Share.WHOLE;
        }
        Map<String, Set<Integer>> buckets = new HashMap<>();
        open.stream()
                .filter(session -> session.id().equals(own))
                .flatMap(session -> session.laneNames().stream())
                .forEach(lane -> buckets.put(lane, buckets(own, lane, open)));
        return new Share(/* isWhole= */ false, Map.copyOf(buckets));
    }

    private static Set<Integer> buckets(UUID own, String lane, List<SessionRow> open) {
        List<UUID> serving = open.stream()
                .filter(session -> session.laneNames().contains(lane))
                .map(SessionRow::id)
                .toList();
        Set<Integer> buckets = new TreeSet<>();
        for (int bucket = 0; bucket < Share.BUCKETS; bucket++) {
            int number = bucket;
            UUID owner = serving.stream()
                    .max(Comparator.comparingLong((UUID session) -> hash(session, number))
                            .thenComparing(Comparator.naturalOrder()))
                    .orElseThrow();
            if (owner.equals(own)) {
                buckets.add(bucket);
            }
        }
        return buckets;
    }

    private static long hash(UUID session, int bucket) {
        return mix(session.getMostSignificantBits() ^ mix(session.getLeastSignificantBits() + STEP * (bucket + 1)));
    }

    /** The finalizer of a common random number generator: each bit of what comes in has a say in each that goes out. */
    private static long mix(long value) {
        long first = (value ^ (value >>> 30)) * 0xBF58476D1CE4E5B9L;
        long second = (first ^ (first >>> 27)) * 0x94D049BB133111EBL;
        return second ^ (second >>> 31);
    }
}
