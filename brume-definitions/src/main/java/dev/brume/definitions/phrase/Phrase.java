package dev.brume.definitions.phrase;

import dev.brume.schedule.Schedule;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;

/**
 * When something shall happen, in the parts of a sentence: "on the last Friday of each month at 17:00, Lisbon time, and on the working day before if
 * that is a holiday". Immutable.
 *
 * @param pattern how often
 * @param zone whose clocks are meant
 * @param daysOff on which days not
 * @param clocks what becomes of times that clock changes touch
 * @since 0.1.0
 */
public record Phrase(Pattern pattern, ZoneId zone, DaysOff daysOff, Clocks clocks) {
    /** Checks that the parts go together. */
    public Phrase {
        boolean byTheClock = pattern instanceof Pattern.AtTimes || pattern instanceof Pattern.ByTheClock;
        if (!byTheClock && !clocks.equals(Clocks.USUAL)) {
            throw new IllegalArgumentException(
                    "what becomes of skipped and repeated times is said of times by the clock");
        }
        boolean onDays = byTheClock || pattern instanceof Pattern.FixedInterval;
        if (!onDays && !daysOff.equals(DaysOff.NONE)) {
            throw new IllegalArgumentException("days off belong to what comes again and again");
        }
    }

    /** {@return a phrase without days off, with the usual policies at clock changes} */
    public static Phrase of(Pattern pattern, ZoneId zone) {
        return new Phrase(pattern, zone, DaysOff.NONE, Clocks.USUAL);
    }

    /**
     * {@return the schedules that it means, in the shortest form that means just this; none if it goes after another job}
     *
     * <p>Times of the day that no single expression names take several.
     */
    public List<Schedule> schedules() {
        return new PhraseWriter(this).schedules();
    }

    /**
     * {@return the phrase that schedules are, if they are one}
     *
     * <p>What it makes of itself owes the same occurrences as they do, at every clock change too.
     */
    public static Reading read(List<Schedule> schedules) {
        return PhraseReader.read(schedules);
    }

    /**
     * What schedules are in the parts of a sentence.
     *
     * @param phrase empty if there is none
     * @param why there is none, as a sentence without a full stop; empty if there is one
     */
    public record Reading(Optional<Phrase> phrase, String why) {
        /** {@return a phrase that was found} */
        public static Reading of(Phrase phrase) {
            return new Reading(Optional.of(phrase), "");
        }

        /** {@return why there is none} */
        public static Reading none(String why) {
            return new Reading(Optional.empty(), why);
        }
    }
}
