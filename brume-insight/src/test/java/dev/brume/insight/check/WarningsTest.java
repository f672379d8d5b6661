package dev.brume.insight.check;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Days;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.Moment;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What is allowed and will surprise people all the same. */
class WarningsTest {
    private static final Instant NOW = Instant.parse("2026-11-23T10:00:00Z");

    private static Job.Builder job() {
        return Job.named("bridge-closure").program("true");
    }

    @Test
    void anOrdinaryJobSurprisesNobody() {
        assertThat(Warnings.of(job().every(Duration.ofMinutes(5)).build(), NOW)).isEmpty();
        assertThat(Warnings.of(job().cron("0 0 1 1 *", "UTC").build(), NOW)).isEmpty();
    }

    @Test
    void aDateThatIsPastNeverRuns() {
        assertThat(Warnings.of(job().once(Instant.parse("2025-11-23T10:00:00Z")).build(), NOW))
                .containsExactly("'once: 2025-11-23T10:00:00Z' is already past, so it never runs");
    }

    @Test
    void aDateInAnotherYearMayBeAMistake() {
        assertThat(Warnings.of(job().once(Instant.parse("2028-05-14T06:00:00Z")).build(), NOW))
                .singleElement()
                .asString()
                .contains("due next in 537 days", "2028-05-14", "is the year right?");
        CronSchedule rare = CronSchedule.parse("0 0 29 2 MON", ZoneId.of("UTC")).withDays(Days.BOTH);
        assertThat(Warnings.of(job().schedule(rare).build(), NOW)).hasSize(1);
    }

    @Test
    void aJobWithoutAScheduleIsSaidToRunByHandOnlyAndADisabledOneIsLeftAlone() {
        assertThat(Warnings.of(job().build(), NOW)).containsExactly("has no schedule, so it never runs by itself");
        assertThat(Warnings.of(job().enabled(false).build(), NOW)).isEmpty();
    }

    @Test
    void aJobThatFollowsAnotherNeedsNoSchedule() {
        Job follower = Job.named("receipt").handler("print").build();
        Job leader = job().followUp(FollowUp.On.SUCCESS, "receipt").build();

        assertThat(Warnings.of(follower, NOW, Warnings.followers(List.of(leader, follower))))
                .isEmpty();
    }

    private static List<String> of(Schedule schedule) {
        return Warnings.of(job().schedule(schedule).build(), NOW);
    }

    private static CronSchedule lisbon(String text) {
        return CronSchedule.parse(text, ZoneId.of("Europe/Lisbon"));
    }

    @Test
    void twoDayFieldsThatNobodyJoinedOnPurpose() {
        assertThat(of(lisbon("0 9 13 * FRI"))).singleElement().asString().contains("either is enough", "days: both");
        assertThat(of(lisbon("0 9 13 * FRI").withDays(Days.EITHER))).isEmpty();
        assertThat(of(lisbon("0 9 13 * FRI").withDays(Days.BOTH))).isEmpty();
    }

    @Test
    void daysOnWhichClocksChange() {
        assertThat(of(lisbon("30 1 * * *"))).isEmpty();
        assertThat(of(lisbon("30 1 * * *").withFold(Fold.BOTH)))
                .containsExactly(
                        "'30 1 * * *' runs twice on 2027-10-31 and 2028-10-29, when clocks change (as its gap and"
                                + " fold policies say)");
        assertThat(of(lisbon("30 1 * * *").withGap(Gap.SKIP)))
                .containsExactly(
                        "'30 1 * * *' does not run at all on 2027-03-28 and 2028-03-26, when clocks change (as its"
                                + " gap and fold policies say)");
        assertThat(of(lisbon("*/30 * * * *"))).isEmpty();
        assertThat(of(lisbon("0 */8 * * *"))).isEmpty();
        assertThat(of(lisbon("30 1 1 1 *").withGap(Gap.SKIP))).isEmpty();
    }

    @Test
    void daysOnWhichClocksChangeUnderTermsToo() {
        CronSchedule twice = lisbon("30 1 * * *").withFold(Fold.BOTH);
        DayCalendar sundays = DayCalendar.of("sundays", DayCalendar.weekdays("SUN"), List.of(), List.of());

        assertThat(of(twice.with(Terms.NONE.until(Moment.parse("2030-01-01", ZoneId.of("Europe/Lisbon"))))))
                .singleElement()
                .asString()
                .contains("runs twice on 2027-10-31 and 2028-10-29");
        assertThat(of(twice.with(Terms.NONE.until(Moment.parse("2027-12-01", ZoneId.of("Europe/Lisbon"))))))
                .singleElement()
                .asString()
                .contains("runs twice on 2027-10-31, when");
        assertThat(of(twice.with(Terms.NONE.notOn(sundays)))).isEmpty();
        assertThat(of(lisbon("30 1 * * *").withGap(Gap.SKIP).with(Terms.NONE.notOn(sundays))))
                .isEmpty();
    }

    @Test
    void intervalsBelowAMinute() {
        assertThat(Warnings.of(job().every(Duration.ofSeconds(3)).build(), NOW))
                .containsExactly("'every 3s' runs every 3s, 28,800 times a day; is that much meant?");
        assertThat(of(lisbon("*/20 0 9 * * *")))
                .containsExactly("'*/20 0 9 * * *' runs as often as every 20s, 3 times a day; is that much meant?");
        assertThat(Warnings.of(job().every(Duration.ofSeconds(60)).build(), NOW))
                .isEmpty();
        assertThat(Warnings.of(job().afterEnd(Duration.ofSeconds(2)).build(), NOW))
                .isEmpty();
    }

    @Test
    void zonesThatNameNoPlace() {
        assertThat(of(CronSchedule.parse("0 9 * * *", ZoneId.of("+01:00"))))
                .singleElement()
                .asString()
                .contains("zone +01:00 is a fixed offset", "Europe/Paris");
        assertThat(of(CronSchedule.parse("0 9 * * *", ZoneId.of("CET"))))
                .singleElement()
                .asString()
                .contains("zone CET is an abbreviation");
        assertThat(of(CronSchedule.parse("0 9 * * *", ZoneId.of("UTC")))).isEmpty();
    }

    @Test
    void calendarsThatAreMissingOrEnd() {
        assertThat(of(lisbon("0 9 * * *").with(terms(DayCalendar.missing("feasts")))))
                .singleElement()
                .asString()
                .contains("calendar 'feasts' is not defined here");
        assertThat(of(lisbon("0 9 * * *").with(terms(ending("2026-12-31")))))
                .containsExactly("calendar 'feasts' has no dates after 2026-12-31; add those of the time to come");
        assertThat(of(lisbon("0 9 * * *").with(terms(ending("2027-01-01"))))).isEmpty();
    }

    private static Terms terms(DayCalendar calendar) {
        return Terms.NONE.notOn(calendar);
    }

    private static DayCalendar ending(String date) {
        return DayCalendar.ofDates("feasts", List.of(LocalDate.parse(date)));
    }

    @Test
    void whatItsTermsLeaveNothingOf() {
        Terms window = Terms.NONE.within(DailyWindow.parse("10:00-11:00"));
        assertThat(of(lisbon("0 9 * * *").with(window)))
                .containsExactly("'0 9 * * *' never fires: its terms leave no occurrence");
        Terms ended = Terms.NONE.until(Moment.parse("2026-11-01", ZoneId.of("Europe/Lisbon")));
        assertThat(of(lisbon("0 9 * * *").with(ended)))
                .containsExactly("'0 9 * * *' has no occurrence left: its last was 2026-10-31T09:00");
    }
}
