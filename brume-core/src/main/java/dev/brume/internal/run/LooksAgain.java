package dev.brume.internal.run;

import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * When to look again at runs that wait for an end which was under way: soon at first, since an end takes milliseconds, then less often,
 * since a guarded commit may take minutes. Confined to the thread of one duty.
 */
final class LooksAgain {
    private static final Duration FIRST = Duration.ofMillis(10);
    private static final int MOST_DOUBLINGS = 6;
    private static final int MOST = 10_000;

    private final Map<Long, Look> looks = new HashMap<>();

    private record Look(int times, long atNanos) {}

    /** Notes which runs were looked at, and whether an end was still under way. */
    void looked(Map<Long, Boolean> runs, long nanos) {
        if (looks.size() >= MOST) {
            looks.clear();
        }
        runs.forEach((run, busy) -> {
            if (busy) {
                Look before = looks.getOrDefault(run, new Look(0, nanos));
                Duration pause = FIRST.multipliedBy(1L << Math.min(before.times, MOST_DOUBLINGS));
                looks.put(run, new Look(before.times + 1, nanos + pause.toNanos()));
            } else {
                looks.remove(run);
            }
        });
    }

    boolean waits(long run, long nanos) {
        Look look = looks.get(run);
        return look != null && nanos - look.atNanos < 0;
    }

    /** {@return the runs whose time has come} */
    List<Long> due(long nanos) {
        return looks.keySet().stream()
                .filter(run -> !waits(run, nanos))
                .sorted()
                .toList();
    }

    /** Forgets runs whose time had come and that are not to be looked at once more: another instance has done it. */
    void forget(List<Long> due, long nanos) {
        looks.keySet().removeIf(run -> due.contains(run) && !waits(run, nanos));
    }

    Optional<Duration> next(long nanos) {
        return looks.values().stream()
                .map(look -> Duration.ofNanos(Math.max(0, look.atNanos - nanos)))
                .min(Duration::compareTo);
    }

    int size() {
        return looks.size();
    }
}
