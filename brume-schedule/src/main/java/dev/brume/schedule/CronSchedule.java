package dev.brume.schedule;

import java.time.Duration;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A cron expression in a zone.
 *
 * <p>Five fields (minute, hour, day-of-month, month, day-of-week) or six with the second first;
 * lists, ranges that may wrap ({@code FRI-MON}), steps, names, {@code L}, {@code L-n}, {@code nW},
 * {@code LW}, {@code 5L}, {@code FRI#2} and the nicknames from {@code @hourly} to {@code @yearly}. When
 * both day fields are restricted a day matches either of them, as POSIX says, unless {@link
 * Days#BOTH} is asked for.
 *
 * <p>When clocks change: an expression whose hour field begins with {@code *} or covers all 24 hours
 * means "keep going", so a skipped hour is skipped and a repeated one counts twice; any other means
 * "at this time of day", so a local time in a gap is owed at the first instant after it and one in a
 * fold the first time only. Both can be set.
 *
 * <pre>
 * 30 2 * * *   Europe/Lisbon  no clock change      02:30 local
 * 30 1 * * *   Europe/Lisbon  2026-03-29, gap      2026-03-29T01:00:00Z  AFTER_GAP
 * 30 1 * * *   Europe/Lisbon  2026-10-25, fold     2026-10-25T00:30:00Z  FIRST_OF_FOLD
 * 0 12 L 2 *   Atlantic/Azores  2028               2028-02-29T13:00:00Z
 * </pre>
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class CronSchedule implements WallClockSchedule {
    private final String text;
    private final CronPattern pattern;
    private final ZoneId zone;
    private final Optional<Gap> gap;
    private final Optional<Fold> fold;
    private final Optional<Days> statedDays;
    private final WallClock clock;

    private CronSchedule(
            String text,
            CronPattern pattern,
            ZoneId zone,
            Optional<Gap> gap,
            Optional<Fold> fold,
            Optional<Days> statedDays) {
        if (!pattern.everFires()) {
            throw ScheduleSyntaxException.of(
                    text,
                    ScheduleProblem.of(
                            "cron", text, 0, "never fires: no year has such a day (look at day and month together)"));
        }
        this.text = text;
        this.pattern = pattern;
        this.zone = zone;
        this.gap = gap;
        this.fold = fold;
        this.statedDays = statedDays;
        boolean keepsGoing = keepsGoing(pattern);
        this.clock = new WallClock(
                pattern,
                zone,
                gap.orElse(keepsGoing ? Gap.SKIP : Gap.AFTER),
                fold.orElse(keepsGoing ? Fold.BOTH : Fold.FIRST));
    }

    private static boolean keepsGoing(CronPattern pattern) {
        CronFieldSet hour = pattern.set(CronField.HOUR);
        return hour.text().startsWith("*") || hour.count() == 24;
    }

    /**
     * Reads an expression.
     *
     * @throws ScheduleSyntaxException if anything in it is wrong, or if it can never fire; all
     *     problems are reported together
     */
    public static CronSchedule parse(String text, ZoneId zone) {
        Objects.requireNonNull(zone, "zone");
        CronPattern pattern = new CronPattern(CronParser.parse(text), Days.EITHER);
        return new CronSchedule(text.strip(), pattern, zone, Optional.empty(), Optional.empty(), Optional.empty());
    }

    /** {@return a copy with a stated gap policy} */
    public CronSchedule withGap(Gap policy) {
        return new CronSchedule(text, pattern, zone, Optional.of(policy), fold, statedDays);
    }

    /** {@return a copy with a stated fold policy} */
    public CronSchedule withFold(Fold policy) {
        return new CronSchedule(text, pattern, zone, gap, Optional.of(policy), statedDays);
    }

    /**
     * {@return a copy that combines its day fields as stated}
     *
     * @throws ScheduleSyntaxException if it can never fire so
     */
    public CronSchedule withDays(Days days) {
        return new CronSchedule(text, pattern.with(days), zone, gap, fold, Optional.of(days));
    }

    /** {@return the expression as written, without surrounding space} */
    public String text() {
        return text;
    }

    @Override
    public ZoneId zone() {
        return zone;
    }

    /** {@return how the day fields combine} */
    public Days days() {
        return pattern.days();
    }

    /** {@return whether both day fields are restricted and a day that matches either is enough, with nobody having said so} */
    public boolean eitherDayDecides() {
        return pattern.eitherDayFieldDecides() && statedDays.isEmpty();
    }

    /** {@return how the day fields combine only if it was stated} */
    public Optional<Days> statedDays() {
        return statedDays;
    }

    /** {@return the fields as they were understood, second first} */
    public List<CronFieldReading> fields() {
        return Arrays.stream(CronField.values())
                .map(field -> CronFieldReading.of(
                        field, pattern.set(field), CronWords.specials(field, pattern, Words.in(Locale.ENGLISH))))
                .toList();
    }

    /** {@return the gap policy in force, stated or by default} */
    public Gap gap() {
        return clock.gap();
    }

    /** {@return the fold policy in force, stated or by default} */
    public Fold fold() {
        return clock.fold();
    }

    @Override
    public Optional<Gap> statedGap() {
        return gap;
    }

    @Override
    public Optional<Fold> statedFold() {
        return fold;
    }

    @Override
    public WallClock clock() {
        return clock;
    }

    @Override
    public Duration smallestInterval() {
        return Duration.ofSeconds(pattern.smallestInterval());
    }

    @Override
    public String words(Locale locale) {
        return CronWords.of(this, pattern, Words.in(locale));
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof CronSchedule that
                && text.equals(that.text)
                && zone.equals(that.zone)
                && statedDays.equals(that.statedDays)
                && gap.equals(that.gap)
                && fold.equals(that.fold);
    }

    @Override
    public int hashCode() {
        return Objects.hash(text, zone, statedDays, gap, fold);
    }

    /** {@return the expression as written; {@link #parse} reads it back} */
    @Override
    public String toString() {
        return text;
    }
}
