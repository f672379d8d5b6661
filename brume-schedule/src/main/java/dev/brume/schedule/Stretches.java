package dev.brume.schedule;

import org.jspecify.annotations.Nullable;

/** Parts of local time in which something is owed; in seconds, each from its start to its end (exclusive). */
interface Stretches {
    long DAY = 86_400;

    /** One part. */
    record Stretch(long start, long end) {}

    /** {@return the first stretch that ends after a local second; null if there is none in reach} */
    @Nullable
    Stretch endingAfter(long local);

    /** {@return the last stretch that starts before a local second; null if there is none in reach} */
    @Nullable
    Stretch startingBefore(long local);

    /** The same part of each day. */
    record Daily(long firstSecond, long length) implements Stretches {

        @Override
        public Stretch endingAfter(long local) {
            long day = Math.floorDiv(local - firstSecond - length, DAY) + 1;
            return stretch(day);
        }

        @Override
        public Stretch startingBefore(long local) {
            long day = Math.floorDiv(local - 1 - firstSecond, DAY);
            return stretch(day);
        }

        private Stretch stretch(long day) {
            long start = day * DAY + firstSecond;
            return new Stretch(start, start + length);
        }
    }

    /** Whole working days. */
    record Whole(WorkingDays days) implements Stretches {

        @Override
        public @Nullable Stretch endingAfter(long local) {
            return stretch(days.atOrAfter(Math.floorDiv(local, DAY)));
        }

        @Override
        public @Nullable Stretch startingBefore(long local) {
            return stretch(days.atOrBefore(Math.floorDiv(local - 1, DAY)));
        }

        private static @Nullable Stretch stretch(long day) {
            return day == LocalTimes.NONE ? null : new Stretch(day * DAY, (day + 1) * DAY);
        }
    }
}
