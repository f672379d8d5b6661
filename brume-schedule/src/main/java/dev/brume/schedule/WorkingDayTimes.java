package dev.brume.schedule;

/** The times of a rule that fall on working days. Immutable and safe for use by many threads. */
final class WorkingDayTimes implements LocalTimes {
    private static final long DAY = Stretches.DAY;

    /** A rule that names only days off is given up after so many of them. */
    private static final int MOST_DAYS_OFF = 40_000;

    private final LocalTimes rule;
    private final WorkingDays days;

    WorkingDayTimes(LocalTimes rule, WorkingDays days) {
        this.rule = rule;
        this.days = days;
    }

    @Override
    public long next(long from) {
        long named = rule.next(from);
        for (int tries = 0; tries < MOST_DAYS_OFF && named != NONE; tries++) {
            long day = Math.floorDiv(named, DAY);
            if (days.has(day)) {
                return named;
            }
            named = rule.next((day + 1) * DAY);
        }
        return NONE;
    }

    @Override
    public long previous(long from) {
        long named = rule.previous(from);
        for (int tries = 0; tries < MOST_DAYS_OFF && named != NONE; tries++) {
            long day = Math.floorDiv(named, DAY);
            if (days.has(day)) {
                return named;
            }
            named = rule.previous(day * DAY - 1);
        }
        return NONE;
    }

    /** What a working day holds is counted by the rule. */
    @Override
    public long count(long from, long until) {
        long count = 0;
        for (long named = next(from); named != NONE && named < until; ) {
            long nextDay = (Math.floorDiv(named, DAY) + 1) * DAY;
            count += rule.count(named, Math.min(until, nextDay));
            named = next(nextDay);
        }
        return count;
    }
}
