package dev.brume.internal.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.internal.document.PinsDocument;
import dev.brume.schedule.Counting;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import dev.brume.spi.Pins;
import dev.brume.spi.Pins.SchedulePin;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

class PinningTest {
    private static final ZoneId UTC = ZoneId.of("UTC");
    private static final Instant FIRST = Instant.parse("2026-11-23T10:00:00Z");
    private static final Schedule TEN = EverySchedule.of(Duration.ofMinutes(10)).with(Terms.NONE.atMost(10));

    private static Job job(Schedule... schedules) {
        Job.Builder job = Job.named("dues").program("true");
        for (Schedule schedule : schedules) {
            job.schedule(schedule);
        }
        return job.build();
    }

    private static Pins pins(Job job, Optional<Job> before, Instant at) {
        return Pinning.of(job, Map.of(), before, at, "2026a");
    }

    private static Job pinned(Job job, Optional<Job> before, Instant at) {
        return pins(job, before, at)
                .apply(job, job.calendars().stream().collect(Collectors.toMap(DayCalendar::name, days -> days)));
    }

    private static DayCalendar feasts(String... dates) {
        return DayCalendar.ofDates(
                "feasts", List.of(dates).stream().map(LocalDate::parse).toList());
    }

    @Test
    void whatCountsNothingPinsNothing() {
        Job plain = job(EverySchedule.of(Duration.ofMinutes(10)), CronSchedule.parse("0 9 * * *", UTC));

        assertThat(pins(plain, Optional.empty(), FIRST)).isEqualTo(new Pins(Map.of(), List.of(), "2026a"));
        assertThat(Pins.NONE.apply(plain, Map.of())).isEqualTo(plain);
    }

    @Test
    void aLimitCountsFromItsDefinitionAndOnAcrossVersions() {
        Job first = pinned(job(TEN), Optional.empty(), FIRST);
        assertThat(first.timeline().count(FIRST, FIRST.plus(Duration.ofDays(9))))
                .isEqualTo(10);

        Instant later = FIRST.plus(Duration.ofMinutes(35));
        Job second = pinned(job(TEN), Optional.of(first), later);
        assertThat(pins(job(TEN), Optional.of(first), later).schedules())
                .containsExactly(new SchedulePin(Optional.of(new Counting(FIRST, later, 4)), Set.of()));
        assertThat(second.timeline().count(later, later.plus(Duration.ofDays(9))))
                .isEqualTo(6);

        Instant muchLater = FIRST.plus(Duration.ofDays(1));
        assertThat(pinned(job(TEN), Optional.of(second), muchLater).next(muchLater))
                .isEmpty();
    }

    @Test
    void theSameRuleIsFoundInAnotherPlaceAndAChangedOneKeepsItsPlace() {
        Schedule nine = CronSchedule.parse("0 9 * * *", UTC).with(Terms.NONE.atMost(5));
        Job first = pinned(job(TEN, nine), Optional.empty(), FIRST);
        Instant later = FIRST.plus(Duration.ofMinutes(35));

        List<SchedulePin> swapped =
                pins(job(nine, TEN), Optional.of(first), later).schedules();
        assertThat(swapped)
                .extracting(pin -> pin.counting().orElseThrow().owed())
                .containsExactly(0L, 4L);

        Schedule quarter = EverySchedule.of(Duration.ofMinutes(15)).with(Terms.NONE.atMost(10));
        Counting changed = pins(job(quarter, nine), Optional.of(first), later)
                .schedules()
                .get(0)
                .counting()
                .orElseThrow();
        assertThat(changed).isEqualTo(new Counting(later, later, 4));
    }

    @Test
    void aDisabledJobOwesNothingThatCounts() {
        Job disabled = pinned(
                Job.named("dues").schedule(TEN).enabled(false).program("true").build(), Optional.empty(), FIRST);
        Instant later = FIRST.plus(Duration.ofHours(5));

        assertThat(pins(job(TEN), Optional.of(disabled), later)
                        .schedules()
                        .get(0)
                        .counting())
                .contains(new Counting(FIRST, later, 0));
    }

    @Test
    void aDelayKeepsTheTimeOfItsFirstDefinitionUnlessItChanges() {
        Job first = pinned(job(OnceSchedule.parse("in 10m", UTC)), Optional.empty(), FIRST);
        Instant later = FIRST.plus(Duration.ofMinutes(4));

        assertThat(pinned(job(OnceSchedule.parse("in 10m", UTC)), Optional.of(first), later)
                        .next(later))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo(FIRST.plus(Duration.ofMinutes(10))));
        assertThat(pinned(job(OnceSchedule.parse("in 20m", UTC)), Optional.of(first), later)
                        .next(later))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo(later.plus(Duration.ofMinutes(20))));
    }

    @Test
    void whatWasOwedAheadIsSatisfiedAndWhatIsStillMovedIsNot() {
        CronSchedule fridays = CronSchedule.parse("0 9 * * FRI", UTC);
        Terms ahead = Terms.NONE.notOn(feasts("2026-11-27")).ifDayOff(IfDayOff.PREVIOUS);
        Job before = pinned(job(fridays.with(ahead)), Optional.empty(), FIRST);
        Terms without = Terms.NONE.notOn(feasts()).ifDayOff(IfDayOff.PREVIOUS);

        Instant afterThursday = Instant.parse("2026-11-26T12:00:00Z");
        assertThat(pins(job(fridays.with(without)), Optional.of(before), afterThursday)
                        .schedules())
                .containsExactly(new SchedulePin(Optional.empty(), Set.of(LocalDateTime.parse("2026-11-27T09:00"))));
        Instant beforeThursday = Instant.parse("2026-11-26T08:00:00Z");
        assertThat(pins(job(fridays.with(without)), Optional.of(before), beforeThursday)
                        .schedules())
                .isEmpty();
    }

    @Test
    void whatRanOnItsDayIsNotOwedAgainWhenThatDayBecomesAHolidayAfterwards() {
        CronSchedule fridays = CronSchedule.parse("0 9 * * FRI", UTC);
        Terms none = Terms.NONE.notOn(feasts()).ifDayOff(IfDayOff.NEXT);
        Job before = pinned(job(fridays.with(none)), Optional.empty(), FIRST);
        Instant afternoon = Instant.parse("2026-11-27T15:00:00Z");
        Job after = pinned(
                job(fridays.with(Terms.NONE.notOn(feasts("2026-11-27")).ifDayOff(IfDayOff.NEXT))),
                Optional.of(before),
                afternoon);

        assertThat(after.next(afternoon))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo("2026-12-04T09:00:00Z"));
    }

    @Test
    void whatIsSatisfiedStaysSoThroughFurtherVersions() {
        CronSchedule fridays = CronSchedule.parse("0 9 * * FRI", UTC);
        Terms none = Terms.NONE.notOn(feasts()).ifDayOff(IfDayOff.NEXT);
        Terms feast = Terms.NONE.notOn(feasts("2026-11-27")).ifDayOff(IfDayOff.NEXT);
        Job first = pinned(job(fridays.with(none)), Optional.empty(), FIRST);
        Job second = pinned(job(fridays.with(feast)), Optional.of(first), Instant.parse("2026-11-27T15:00:00Z"));
        Instant evening = Instant.parse("2026-11-27T18:00:00Z");
        Job third = pinned(job(fridays.with(feast)), Optional.of(second), evening);

        assertThat(third.next(evening))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo("2026-12-04T09:00:00Z"));
    }

    @Test
    void aLimitOfAJobWithASpreadLosesNothingAtItsVersionsSeams() {
        Job spread = Job.named("dues")
                .schedule(TEN)
                .spread(Duration.ofMinutes(9))
                .program("true")
                .build();
        Duration offset = spread.offset();
        assertThat(offset).isPositive();
        Job first = pinned(spread, Optional.empty(), FIRST.plus(offset));
        // Between the rule's fourth time and its owed one.
        Instant seam = FIRST.plus(Duration.ofMinutes(30)).plus(offset.dividedBy(2));
        Job second = pinned(spread, Optional.of(first), seam);

        long before = first.timeline().count(FIRST, seam);
        assertThat(before).isEqualTo(3);
        assertThat(second.next(seam))
                .hasValueSatisfying(next -> assertThat(next.instant())
                        .isEqualTo(FIRST.plus(Duration.ofMinutes(30)).plus(offset)));
        assertThat(before + second.timeline().count(seam, seam.plus(Duration.ofDays(9))))
                .isEqualTo(10);
    }

    @Test
    void pinsAreWrittenAndReadBackTheSame() {
        Pins pins = new Pins(
                Map.of("feasts", 3, "office-days", 0),
                List.of(
                        SchedulePin.NONE,
                        new SchedulePin(Optional.of(new Counting(FIRST, FIRST.plusSeconds(5), 7)), Set.of()),
                        new SchedulePin(Optional.empty(), Set.of(LocalDateTime.parse("2026-11-27T09:00")))),
                "2026a");

        assertThat(PinsDocument.read(PinsDocument.write(pins), "2026a")).isEqualTo(pins);
        assertThat(PinsDocument.write(Pins.NONE)).isEmpty();
    }

    @Test
    void whatWasNeverOwedIsStillOwedOnTheDayItIsMovedTo() {
        CronSchedule fridays = CronSchedule.parse("0 9 * * FRI", UTC);
        Terms skipped = Terms.NONE.notOn(feasts("2026-11-27"));
        Job before = pinned(job(fridays.with(skipped)), Optional.empty(), FIRST);
        Instant afternoon = Instant.parse("2026-11-27T15:00:00Z");
        Job after = pinned(job(fridays.with(skipped.ifDayOff(IfDayOff.NEXT))), Optional.of(before), afternoon);

        assertThat(after.next(afternoon))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo("2026-11-28T09:00:00Z"));
    }
}
