package dev.brume.schedule;

/**
 * A rule on the wall clock alone: which local times it names, with no thought of zones.
 *
 * <p>Local time is counted in whole seconds since 1970-01-01T00:00 on the wall clock. This is what a new
 * kind of rule has to provide; {@link WallClock} does the rest. Implementations are immutable to the
 * eye and safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface LocalTimes {
    /** Stands for no time. */
    long NONE = Long.MIN_VALUE;

    /** {@return the first named local second at or after one, or {@link #NONE}} */
    long next(long from);

    /** {@return the last named local second at or before one, or {@link #NONE}} */
    long previous(long from);

    /** Counts the named local seconds from {@code from} (inclusive) to {@code until} (exclusive). */
    default long count(long from, long until) {
        long count = 0;
        long at = next(from);
        while (at != NONE && at < until) {
            long quarter = Math.floorDiv(at, (long) Marks.SECONDS);
            long begin = quarter * Marks.SECONDS;
            long end = begin + Marks.SECONDS;
            if (isQuicklyCounted() && from <= begin && end <= until) {
                count += Marks.count(quarter(quarter));
                at = next(end);
            } else {
                count++;
                at = next(at + 1);
            }
        }
        return count;
    }

    /**
     * {@return the named seconds of a quarter of an hour, as {@link Marks}; perhaps shared, so never to be changed}
     *
     * @param quarter in quarters since 1970-01-01T00:00 on the wall clock
     */
    default long[] quarter(long quarter) {
        long begin = quarter * Marks.SECONDS;
        long[] marks = Marks.empty();
        for (long at = next(begin); at != NONE && at < begin + Marks.SECONDS; at = next(at + 1)) {
            Marks.set(marks, (int) (at - begin));
        }
        return marks;
    }

    /** {@return whether {@link #quarter} costs a microsecond or so, however many seconds it names} */
    default boolean isQuicklyCounted() {
        return false;
    }

    /** {@return the local second that the rule named where a calendar made it this one} */
    default long nominal(long local) {
        return local;
    }

    /** {@return whether several named times were moved to this one} */
    default boolean merged(long local) {
        return false;
    }
}
