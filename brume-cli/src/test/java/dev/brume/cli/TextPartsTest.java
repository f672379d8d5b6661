package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Job;
import dev.brume.definitions.ExpressionText;
import dev.brume.definitions.Subject;
import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.ScheduleSyntaxException;
import java.time.Duration;
import java.time.Instant;
import java.time.YearMonth;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** The pieces that texts on a terminal are made of. */
class TextPartsTest {
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");
    private static final Palette PLAIN = new Palette(false);

    @Test
    void linesAreBrokenBetweenWordsAndNeverWithin() {
        assertThat(Wrap.lines("at the end of the pier", 10, 2)).containsExactly("at the end", "  of the", "  pier");
        assertThat(Wrap.lines("short", 10, 2)).containsExactly("short");
        assertThat(Wrap.lines("unbreakablyLong word", 5, 1)).containsExactly("unbreakablyLong", " word");
        assertThat(Wrap.lines("", 5, 1)).containsExactly("");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            15 4 * * *                                             | CronSchedule
            @daily                                                 | CronSchedule
            every 90m                                              | EverySchedule
            Every 1h30m                                            | EverySchedule
            after end 10m                                          | AfterEndSchedule
            in 10m                                                 | OnceSchedule
            2027-05-14T06:00                                       | OnceSchedule
            2027-05-14                                             | OnceSchedule
            DTSTART:20270105T090000 RRULE:FREQ=DAILY               | RuleSchedule
            RRULE:FREQ=DAILY DTSTART;TZID=Europe/Madrid:20270105T090000 | RuleSchedule
            """)
    void anExpressionSaysWhatKindItIs(String text, String kind) {
        assertThat(ExpressionText.parse(text, LISBON).getClass().getSimpleName())
                .isEqualTo(kind);
        assertThat(List.of(
                        CronSchedule.class,
                        EverySchedule.class,
                        AfterEndSchedule.class,
                        OnceSchedule.class,
                        RuleSchedule.class))
                .extracting(Class::getSimpleName)
                .contains(kind);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"", "every", "every now and then", "after end", "in a while", "2027-99-99", "RRULE:FREQ=DAILY"})
    void whatIsNoneIsRefused(String text) {
        assertThatThrownBy(() -> ExpressionText.parse(text, LISBON)).isInstanceOf(ScheduleSyntaxException.class);
    }

    private static List<String> month(Schedule schedule, String month) {
        Subject subject = Subject.of(schedule, Instant.EPOCH);
        return new MonthView(subject, YearMonth.parse(month), PLAIN).lines();
    }

    @Test
    void aMonthHasItsDaysUnderTheirWeekdays() {
        List<String> lines = month(CronSchedule.parse("0 9 * * FRI", LISBON), "2027-05");

        assertThat(lines).hasSize(8);
        assertThat(lines.get(0)).isEqualTo("May 2027, Europe/Lisbon");
        assertThat(lines.get(1)).isEqualTo("Mon        Tue        Wed        Thu        Fri        Sat        Sun");
        assertThat(lines.get(2)).isEqualTo(" ".repeat(55) + " 1 .        2 .");
        assertThat(lines.get(3)).contains(" 7 09:00");
        assertThat(lines.get(7)).isEqualTo("31 .");
        assertThat(lines).allSatisfy(line -> assertThat(line.length()).isLessThanOrEqualTo(80));
    }

    @Test
    void aDayOfManyIsCountedAndOneThatAPolicyTouchedIsMarked() {
        List<String> lines = month(CronSchedule.parse("*/30 * * * *", LISBON), "2026-10");

        assertThat(String.join("\n", lines))
                .contains("24 x48", "25!x50")
                .contains("! 2026-10-25 01:00  FIRST_OF_FOLD: 01:00 comes twice that day");
        assertThat(month(EverySchedule.of(Duration.ofSeconds(1)).withZone(LISBON), "2026-10")
                        .get(2))
                .contains(" 1 x86400");
    }

    @Test
    void daysOfClockChangesAreComparedWithTheWeekBefore() {
        Subject hourly = Subject.of(CronSchedule.parse("15 * * * *", LISBON), Instant.EPOCH);
        List<TransitionDays> days = TransitionDays.of(hourly, Instant.parse("2026-01-01T00:00:00Z"));

        assertThat(days).hasSize(4);
        assertThat(days.get(0).title())
                .isEqualTo("Sun 2026-03-29, Europe/Lisbon: clocks go forward by 1h, from 01:00 to 02:00");
        assertThat(days.get(0).summary()).isEqualTo("23 times that day, 24 a week before");
        assertThat(days.get(0).listed()).isEmpty();
        assertThat(days.get(1).summary()).isEqualTo("25 times that day, 24 a week before");
        assertThat(days.get(1).listed()).hasSize(2);
        assertThat(TransitionDays.of(
                        Subject.of(CronSchedule.parse("15 * * * *", ZoneId.of("UTC")), Instant.EPOCH), Instant.EPOCH))
                .isEmpty();
    }

    @Test
    void aSubjectIsADisabledJobTooAndKnowsWhatFollowsAnEnd() {
        Instant due = Instant.parse("2026-11-23T12:00:00Z");
        Job sweep = Job.named("sweep")
                .afterEnd(Duration.ofMinutes(10))
                .program("true")
                .build();
        Subject chained = Subject.of(sweep, Optional.of(due));
        Subject disabled = Subject.of(
                Job.named("tides")
                        .every(Duration.ofHours(1))
                        .enabled(false)
                        .program("true")
                        .build(),
                Optional.empty());

        assertThat(chained.between(due, due.plusSeconds(1))).hasSize(1);
        assertThat(chained.between(due.plusSeconds(1), Instant.MAX)).isEmpty();
        assertThat(disabled.between(due, due.plusSeconds(86_400))).isEmpty();
        assertThat(disabled.words()).endsWith("(disabled)");
    }

    @Test
    void helpIsIndentedBelowWhatItBelongsTo() {
        assertThat(HelpWidth.wrapped("  1  nothing was changed: someone else was first", 30))
                .containsExactly("  1  nothing was changed:", "     someone else was first");
        assertThat(HelpWidth.wrapped("  brume run-now tides --because 'new gauge'", 32))
                .containsExactly("  brume run-now tides --because", "    'new gauge'");
        assertThat(HelpWidth.wrapped("  short", 30)).containsExactly("  short");
    }
}
