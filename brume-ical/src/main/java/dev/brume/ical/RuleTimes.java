package dev.brume.ical;

import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.Marks;
import java.util.Arrays;

/** A recurrence with further times (RDATE), without some (EXDATE). Immutable. */
final class RuleTimes implements LocalTimes {
    private final LocalTimes recurrence;
    private final long[] added;
    private final long[] excluded;

    RuleTimes(LocalTimes recurrence, long[] added, long[] excluded) {
        this.recurrence = recurrence;
        this.added = Arrays.stream(added).sorted().distinct().toArray();
        this.excluded = Arrays.stream(excluded).sorted().distinct().toArray();
    }

    @Override
    public long next(long from) {
        long at = from;
        while (true) {
            long named = recurrence.next(at);
            int found = Arrays.binarySearch(added, at);
            int index = found >= 0 ? found : -found - 1;
            if (index < added.length && (named == NONE || added[index] < named)) {
                named = added[index];
            }
            if (named == NONE || Arrays.binarySearch(excluded, named) < 0) {
                return named;
            }
            at = named + 1;
        }
    }

    @Override
    public boolean isQuicklyCounted() {
        return recurrence.isQuicklyCounted();
    }

    @Override
    public long[] quarter(long quarter) {
        return touches(added, quarter) || touches(excluded, quarter)
                ? LocalTimes.super.quarter(quarter)
                : recurrence.quarter(quarter);
    }

    private static boolean touches(long[] times, long quarter) {
        int found = Arrays.binarySearch(times, quarter * Marks.SECONDS);
        int at = found >= 0 ? found : -found - 1;
        return at < times.length && Math.floorDiv(times[at], (long) Marks.SECONDS) == quarter;
    }

    @Override
    public long previous(long from) {
        long at = from;
        while (true) {
            long named = recurrence.previous(at);
            int found = Arrays.binarySearch(added, at);
            int index = found >= 0 ? found : -found - 2;
            if (index >= 0) {
                named = Math.max(named, added[index]);
            }
            if (named == NONE || Arrays.binarySearch(excluded, named) < 0) {
                return named;
            }
            at = named - 1;
        }
    }
}
