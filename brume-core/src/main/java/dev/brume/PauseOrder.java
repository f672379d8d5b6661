package dev.brume;

import dev.brume.history.Pause;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Objects;
import java.util.Optional;

/**
 * An order to pause jobs: which, from when, until when, and what becomes of the occurrences meanwhile.
 *
 * <p>Unless it says otherwise, it holds from now on until it is lifted, and each job's policy for missed occurrences decides
 * afterwards. Immutable.
 *
 * @param scope which jobs
 * @param from when it begins, inclusive; now if empty
 * @param until when it ends, exclusive; when it is lifted if empty
 * @param owed what becomes of the occurrences in it
 * @param days the days of a calendar that it consists of instead
 * @since 0.1.0
 */
public record PauseOrder(
        Pause.Scope scope,
        Optional<Instant> from,
        Optional<Instant> until,
        Pause.Owed owed,
        Optional<Pause.Days> days) {

    /** Checks that it ends after it begins. */
    public PauseOrder {
        Objects.requireNonNull(scope, "scope");
        if (days.isPresent() && (from.isPresent() || until.isPresent())) {
            throw new IllegalArgumentException(
                    "a pause goes by the days of a calendar or by a begin and an end, not by both");
        }
        if (from.isPresent() && until.isPresent() && !from.get().isBefore(until.get())) {
            throw new IllegalArgumentException(
                    "a pause from " + from.get() + " until " + until.get() + " would end before it begins");
        }
    }

    /** {@return the order to pause jobs now, until they are resumed} */
    public static PauseOrder of(Pause.Scope scope) {
        return new PauseOrder(scope, Optional.empty(), Optional.empty(), Pause.Owed.AS_DEFINED, Optional.empty());
    }

    /**
     * {@return a copy for a pause that begins later}
     *
     * @param begin inclusive: what is planned for this instant is not owed
     */
    public PauseOrder from(Instant begin) {
        return new PauseOrder(scope, Optional.of(begin), until, owed, days);
    }

    /**
     * {@return a copy for a pause that ends by itself}
     *
     * @param end exclusive: what is planned for this instant runs
     */
    public PauseOrder until(Instant end) {
        return new PauseOrder(scope, from, Optional.of(end), owed, days);
    }

    /**
     * {@return a copy for a pause on the days of a calendar that are to come, each from midnight to midnight}
     *
     * <p>When the calendar is defined anew, the days to come follow it.
     *
     * @param calendar one that lists dates
     * @param zone whose midnights are meant
     */
    public PauseOrder during(CalendarName calendar, ZoneId zone) {
        return new PauseOrder(scope, from, until, owed, Optional.of(new Pause.Days(calendar, zone)));
    }

    /** {@return a copy for a pause of which nothing is made up for} Pauses that touch or overlap count as one. */
    public PauseOrder leavingOut() {
        return new PauseOrder(scope, from, until, Pause.Owed.LEFT_OUT, days);
    }
}
