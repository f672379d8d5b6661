package dev.brume.schedule;

/**
 * The times of a rule, those on days off moved to the next working day or the one before.
 *
 * <p>A moved time keeps its time of day. All times that land on one working day come from that day and the days off
 * right before it (moved forwards) or right after it (moved backwards), so a search looks at one such group
 * after the other. Immutable and safe for use by many threads.
 */
final class MovedTimes implements LocalTimes {
    private static final long DAY = Stretches.DAY;

    /** A rule that names only days off without a working day in reach is given up after so many groups. */
    private static final int MOST_EMPTY = 40_000;

    private final LocalTimes rule;
    private final WorkingDays days;
    private final IfDayOff ifDayOff;

    MovedTimes(LocalTimes rule, WorkingDays days, IfDayOff ifDayOff) {
        this.rule = rule;
        this.days = days;
        this.ifDayOff = ifDayOff;
    }

    @Override
    public long next(long from) {
        long at = from;
        long group = days.atOrAfter(Math.floorDiv(from, DAY));
        for (int tries = 0; tries < MOST_EMPTY; tries++) {
            if (group != NONE) {
                long hit = firstInGroup(group, from);
                if (hit != NONE) {
                    return hit;
                }
                at = Math.max(at, (lastOfGroup(group) + 1) * DAY);
            }
            long named = rule.next(at);
            if (named == NONE) {
                return NONE;
            }
            long day = Math.floorDiv(named, DAY);
            group = days.target(day, ifDayOff);
            at = (day + 1) * DAY;
        }
        return NONE;
    }

    @Override
    public long previous(long from) {
        long at = from;
        long group = days.atOrBefore(Math.floorDiv(from, DAY));
        for (int tries = 0; tries < MOST_EMPTY; tries++) {
            if (group != NONE) {
                long hit = lastInGroup(group, from);
                if (hit != NONE) {
                    return hit;
                }
                at = Math.min(at, firstOfGroup(group) * DAY - 1);
            }
            long named = rule.previous(at);
            if (named == NONE) {
                return NONE;
            }
            long day = Math.floorDiv(named, DAY);
            group = days.target(day, ifDayOff);
            at = day * DAY - 1;
        }
        return NONE;
    }

    /** The first of the days whose times are owed on a working day. */
    private long firstOfGroup(long workingDay) {
        if (ifDayOff == IfDayOff.PREVIOUS) {
            return workingDay;
        }
        long day = workingDay;
        while (day > workingDay - WorkingDays.FARTHEST && !days.has(day - 1)) {
            day--;
        }
        return day;
    }

    private long lastOfGroup(long workingDay) {
        if (ifDayOff == IfDayOff.NEXT) {
            return workingDay;
        }
        long day = workingDay;
        while (day < workingDay + WorkingDays.FARTHEST && !days.has(day + 1)) {
            day++;
        }
        return day;
    }

    /** The first time owed on a working day at or after a local second, or NONE. */
    private long firstInGroup(long workingDay, long from) {
        long notBefore = Math.max(0, from - workingDay * DAY);
        long end = (lastOfGroup(workingDay) + 1) * DAY;
        long best = NONE;
        long named = rule.next(firstOfGroup(workingDay) * DAY + notBefore);
        while (named != NONE && named < end) {
            long timeOfDay = Math.floorMod(named, DAY);
            if (timeOfDay < notBefore) {
                named = rule.next(named - timeOfDay + notBefore);
                continue;
            }
            long moved = workingDay * DAY + timeOfDay;
            best = best == NONE ? moved : Math.min(best, moved);
            named = rule.next((Math.floorDiv(named, DAY) + 1) * DAY);
        }
        return best;
    }

    private long lastInGroup(long workingDay, long from) {
        long notAfter = Math.min(DAY - 1, from - workingDay * DAY);
        long start = firstOfGroup(workingDay) * DAY;
        long best = NONE;
        if (notAfter < 0) {
            return best;
        }
        long named = rule.previous(lastOfGroup(workingDay) * DAY + notAfter);
        while (named != NONE && named >= start) {
            long timeOfDay = Math.floorMod(named, DAY);
            if (timeOfDay > notAfter) {
                named = rule.previous(named - timeOfDay + notAfter);
                continue;
            }
            best = Math.max(best, workingDay * DAY + timeOfDay);
            named = rule.previous(Math.floorDiv(named, DAY) * DAY - 1);
        }
        return best;
    }

    @Override
    public long nominal(long local) {
        if (rule.next(local) == local) {
            return local;
        }
        long workingDay = Math.floorDiv(local, DAY);
        long timeOfDay = local - workingDay * DAY;
        return ifDayOff == IfDayOff.NEXT
                ? named(firstOfGroup(workingDay), workingDay, timeOfDay)
                : named(workingDay, lastOfGroup(workingDay), timeOfDay);
    }

    /** The first day in a range on which the rule names a time of day, as that local second. */
    private long named(long firstDay, long lastDay, long timeOfDay) {
        for (long day = firstDay; day <= lastDay; day++) {
            long local = day * DAY + timeOfDay;
            if (rule.next(local) == local) {
                return local;
            }
        }
        return NONE;
    }

    @Override
    public boolean merged(long local) {
        long workingDay = Math.floorDiv(local, DAY);
        long timeOfDay = local - workingDay * DAY;
        int hits = 0;
        for (long day = firstOfGroup(workingDay); day <= lastOfGroup(workingDay); day++) {
            hits += rule.next(day * DAY + timeOfDay) == day * DAY + timeOfDay ? 1 : 0;
        }
        return hits > 1;
    }
}
