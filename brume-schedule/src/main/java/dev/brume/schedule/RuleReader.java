package dev.brume.schedule;

import java.time.Duration;
import java.time.ZoneId;
import java.util.Locale;

/**
 * Reads rules of RFC 5545; found by {@link java.util.ServiceLoader}. The module brume-ical provides it.
 *
 * <p>Implementations are safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface RuleReader {

    /**
     * Reads a rule.
     *
     * @param text content lines: DTSTART, RRULE, RDATE and EXDATE
     * @param zone the zone of a DTSTART that names none
     * @throws ScheduleSyntaxException if anything in it is wrong
     */
    Rule read(String text, ZoneId zone);

    /** What was read. */
    interface Rule {

        /** {@return the local times it names} */
        LocalTimes times();

        /** {@return the zone it names, or the one given} */
        ZoneId zone();

        /** {@return the rule as one sentence, zone included} */
        String words(Locale locale);

        /** {@return whether the rule itself names its DTSTART, which is owed either way} */
        boolean namesItsStart();

        /** {@return the shortest time between two of its occurrences, or a lower bound of it} */
        Duration smallestInterval();
    }
}
