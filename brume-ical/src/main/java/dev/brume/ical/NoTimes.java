package dev.brume.ical;

import dev.brume.schedule.LocalTimes;

/** Names no time at all. */
final class NoTimes implements LocalTimes {
    @Override
    public long next(long from) {
        return NONE;
    }

    @Override
    public long previous(long from) {
        return NONE;
    }
}
