package dev.brume.schedule;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;

/**
 * A schedule whose rule names local times, so that calendars can move them and gaps and folds meet them.
 *
 * @since 0.1.0
 */
public sealed interface WallClockSchedule extends Schedule permits CronSchedule, RuleSchedule {

    /** {@return its rule on the time line of its zone} */
    WallClock clock();

    /** {@return the gap policy only if it was stated} */
    Optional<Gap> statedGap();

    /** {@return the fold policy only if it was stated} */
    Optional<Fold> statedFold();

    @Override
    default Optional<Occurrence> next(Instant after) {
        return clock().next(after);
    }

    @Override
    default Optional<Occurrence> previous(Instant before) {
        return clock().previous(before);
    }

    @Override
    default long count(Instant from, Instant until) {
        return clock().count(from, until);
    }

    @Override
    default ZoneId zone() {
        return clock().zone();
    }
}
