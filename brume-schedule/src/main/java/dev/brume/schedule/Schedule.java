package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Optional;

/**
 * A rule that owes occurrences.
 *
 * <p>Implementations are immutable and safe for use by many threads. There are no others than those of this package, since a store
 * writes each down and reads it again.
 *
 * @since 0.1.0
 */
public sealed interface Schedule extends Timeline
        permits AfterEndSchedule, EverySchedule, OnceSchedule, TermedSchedule, WallClockSchedule {

    /** {@return the zone in which the rule is evaluated and its local times are shown} */
    ZoneId zone();

    /**
     * {@return the rule as one sentence without a full stop}
     *
     * @param locale the language; English where there are no texts of that language
     */
    String words(Locale locale);

    /** {@return the rule as one English sentence without a full stop} */
    default String words() {
        return words(Locale.ENGLISH);
    }

    /** {@return the shortest time that the rule leaves between two occurrences, clock changes aside} */
    Duration smallestInterval();

    /** {@return the schedule without its terms: itself, unless it carries some} */
    default Schedule rule() {
        return this;
    }

    /**
     * {@return this schedule under terms: calendars, a daily window, a beginning and an end, a limit}
     *
     * @throws ScheduleSyntaxException if the rule cannot carry them
     */
    default Schedule with(Terms terms) {
        return terms.equals(Terms.NONE) ? this : new TermedSchedule(this, terms);
    }

    /** {@return whether something in it counts from its first definition: a limit, or a time such as "in 10m"} */
    default boolean counts() {
        return false;
    }

    /**
     * {@return the schedule with what counts from its first definition counted} A schedule without such things
     * returns itself.
     */
    default Schedule countedFrom(Counting from) {
        return this;
    }

    /** {@return whether its occurrences depend on when runs end; {@link #next} knows none of those} */
    default boolean goesByEnds() {
        return false;
    }

    /** {@return the occurrence that is owed because the run before it ended; empty for all but those} */
    default Optional<Occurrence> afterEnd(Instant end) {
        return Optional.empty();
    }

    /** {@return the occurrence that is owed because such a schedule is defined; empty for all others} */
    default Optional<Occurrence> firstByEnds(Instant defined) {
        return Optional.empty();
    }
}
