package dev.brume.schedule;

import java.time.Duration;
import java.time.ZoneId;
import java.util.Iterator;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.ServiceLoader;
import org.jspecify.annotations.Nullable;

/**
 * A recurrence rule of RFC 5545.
 *
 * <p>Its local times meet clock changes as times of day do: unless stated otherwise, one in a gap is owed at the
 * first instant after it and one in a fold the first time. ({@link Gap#SKIP} is the strict reading of RFC 5545,
 * section 3.3.10.) A limit by COUNT counts the times the rule names. Immutable and safe for use by many
 * threads.
 *
 * @since 0.1.0
 */
public final class RuleSchedule implements WallClockSchedule {
    private final String text;
    private final ZoneId given;
    private final RuleReader.Rule rule;
    private final Optional<Gap> gap;
    private final Optional<Fold> fold;
    private final WallClock clock;

    private RuleSchedule(String text, ZoneId given, RuleReader.Rule rule, Optional<Gap> gap, Optional<Fold> fold) {
        this.text = text;
        this.given = given;
        this.rule = rule;
        this.gap = gap;
        this.fold = fold;
        this.clock = new WallClock(rule.times(), rule.zone(), gap.orElse(Gap.AFTER), fold.orElse(Fold.FIRST));
    }

    /**
     * Reads content lines: one DTSTART, at most one RRULE, any RDATE and EXDATE.
     *
     * <pre>
     * DTSTART;TZID=America/Halifax:20270105T090000
     * RRULE:FREQ=MONTHLY;BYDAY=1SU,-1SU;BYMONTH=3,4,5
     * EXDATE;TZID=America/Halifax:20270404T090000
     * </pre>
     *
     * @param zone the zone of a DTSTART that names none
     * @throws ScheduleSyntaxException if anything in it is wrong, or it can never fire
     * @throws IllegalStateException if no {@link RuleReader} is on the class path
     */
    public static RuleSchedule parse(String text, ZoneId zone) {
        return new RuleSchedule(text.strip(), zone, Readers.ONLY.read(text, zone), Optional.empty(), Optional.empty());
    }

    private static final class Readers {
        static final RuleReader ONLY = load();

        private static RuleReader load() {
            Iterator<RuleReader> found = ServiceLoader.load(RuleReader.class, RuleSchedule.class.getClassLoader())
                    .iterator();
            if (!found.hasNext()) {
                throw new IllegalStateException(
                        "rules of RFC 5545 need the module brume-ical on the class path; add dev.brume:brume-ical");
            }
            return found.next();
        }
    }

    /** {@return a copy with a stated gap policy} */
    public RuleSchedule withGap(Gap policy) {
        return new RuleSchedule(text, given, rule, Optional.of(policy), fold);
    }

    /** {@return a copy with a stated fold policy} */
    public RuleSchedule withFold(Fold policy) {
        return new RuleSchedule(text, given, rule, gap, Optional.of(policy));
    }

    @Override
    public Optional<Gap> statedGap() {
        return gap;
    }

    @Override
    public Optional<Fold> statedFold() {
        return fold;
    }

    /** {@return the zone of a DTSTART that names none, as it was given} */
    public ZoneId givenZone() {
        return given;
    }

    /** {@return the content lines as written} */
    public String text() {
        return text;
    }

    @Override
    public WallClock clock() {
        return clock;
    }

    @Override
    public String words(Locale locale) {
        return rule.words(locale);
    }

    /** {@return whether the rule itself names its DTSTART, which is owed either way, and the first that COUNT counts} */
    public boolean namesItsStart() {
        return rule.namesItsStart();
    }

    @Override
    public Duration smallestInterval() {
        return rule.smallestInterval();
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof RuleSchedule that
                && text.equals(that.text)
                && given.equals(that.given)
                && gap.equals(that.gap)
                && fold.equals(that.fold);
    }

    @Override
    public int hashCode() {
        return Objects.hash(text, given, gap, fold);
    }

    /** {@return the content lines on one line} */
    @Override
    public String toString() {
        return text.replaceAll("\\s*\\R\\s*", " ");
    }
}
