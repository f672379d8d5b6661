package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.CalendarName;
import dev.brume.IfBusy;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Orders;
import dev.brume.Origin;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.Reason;
import dev.brume.history.ChangeFilter;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.insight.why.Question;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Pauses that begin later and end by themselves. */
@ExtendWith(VirtualBrumeExtension.class)
class PausesTest {
    private static final Instant TEN = Instant.parse("2026-03-02T10:00:00Z");
    private static final Pause.Scope LAMPS = Pause.Scope.of(JobName.parse("lamps"));
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");

    private final List<Instant> ran = new ArrayList<>();

    private static Instant at(int minute) {
        return TEN.plus(Duration.ofMinutes(minute));
    }

    private Job.Builder everyMinute() {
        return Job.named("lamps").cron("* * * * *", "UTC");
    }

    private void define(VirtualBrume harbour, Job.Builder lamps) {
        harbour.brume().define(lamps, run -> ran.add(run.planned()));
    }

    private static Orders orders(VirtualBrume harbour) {
        return harbour.brume().orders("anna", "test");
    }

    private static JobView job(VirtualBrume harbour, String name) {
        return harbour.brume().history().job(JobName.parse(name)).orElseThrow();
    }

    private static List<SpanView> spans(VirtualBrume harbour) {
        return harbour.brume().history().spans(RunFilter.newest(10));
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void aPauseHoldsFromItsFirstInstantToItsLastAndIsMadeUpForAsDefined(VirtualBrume harbour) {
        define(harbour, everyMinute().ifMissed(IfMissed.runLatest()));

        PauseChange planned = harbour.brume()
                .orders("ines", "the mast is painted")
                .pause(PauseOrder.of(LAMPS).from(at(5)).until(at(10)));
        assertThat(planned).isEqualTo(new PauseChange(true, 1));
        assertThat(harbour.brume().history().pauses()).isEmpty();
        assertThat(harbour.brume().history().plannedPauses()).singleElement().satisfies(pause -> {
            assertThat(pause.since()).isEqualTo(at(5));
            assertThat(pause.who()).isEqualTo("ines");
        });
        harbour.advance(Duration.ofMinutes(4));
        assertThat(job(harbour, "lamps").row().nextOccurrence())
                .as("the pause comes first")
                .isEmpty();
        harbour.advance(Duration.ofMinutes(2));
        assertThat(ran).containsExactly(at(1), at(2), at(3), at(4));
        assertThat(job(harbour, "lamps").row().paused()).isTrue();
        assertThat(harbour.brume().history().pauses()).hasSize(1);
        assertThat(harbour.brume().history().plannedPauses()).isEmpty();
        assertThat(new Question(harbour.brume().history(), job(harbour, "lamps"), harbour.now(), Instant::toString)
                        .aboutNow()
                        .sentence())
                .contains("ines paused job lamps from 2026-03-02", "until", "the mast is painted");

        harbour.advance(Duration.ofMinutes(6));
        assertThat(ran).containsExactly(at(1), at(2), at(3), at(4), at(10), at(11), at(12));
        assertThat(spans(harbour)).singleElement().satisfies(view -> {
            assertThat(view.span().reason()).isEqualTo(Reason.PAUSED.name());
            assertThat(view.span().first()).isEqualTo(at(5));
            assertThat(view.span().last()).isEqualTo(at(9));
            assertThat(view.span().count()).isEqualTo(5);
        });
        assertThat(harbour.brume().history().pauses()).isEmpty();
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void nothingIsMadeUpForOfAPauseThatLeavesOutNorOfOnesThatTouchIt(VirtualBrume harbour) {
        define(harbour, everyMinute().ifMissed(IfMissed.runEach(100)).ifBusy(IfBusy.alongside(20)));
        orders(harbour).pause(PauseOrder.of(Pause.Scope.EVERYTHING).from(at(3)).until(at(5)));
        orders(harbour).pause(PauseOrder.of(LAMPS).from(at(5)).until(at(8)).leavingOut());
        orders(harbour).pause(PauseOrder.of(LAMPS).from(at(12)).until(at(14)));

        harbour.advance(Duration.ofMinutes(16));

        assertThat(ran)
                .containsExactly(at(1), at(2), at(8), at(9), at(10), at(11), at(12), at(13), at(14), at(15), at(16));
        assertThat(spans(harbour))
                .singleElement()
                .satisfies(view -> assertThat(view.span().count()).isEqualTo(5));
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void whatComesUnderAPlannedPauseLaterIsPausedToo(VirtualBrume harbour) {
        orders(harbour)
                .pause(PauseOrder.of(Pause.Scope.tag("dark"))
                        .from(at(5))
                        .until(at(10))
                        .leavingOut());
        define(harbour, everyMinute());
        harbour.advance(Duration.ofMinutes(2));
        define(harbour, everyMinute().tag("dark"));
        harbour.brume().define(Job.named("cranes").tag("dark"), run -> ran.add(run.planned()));
        harbour.brume().oneOffs().add(OneOff.of("cranes", "lift").at(at(7)));

        harbour.advance(Duration.ofMinutes(8));
        assertThat(ran).as("one-offs wait").containsExactly(at(1), at(2), at(3), at(4), at(7), at(10));
        orders(harbour).pause(PauseOrder.of(Pause.Scope.tag("dark")).from(at(20)));
        assertThat(orders(harbour).takeBackPauses(Pause.Scope.tag("dark"))).isEqualTo(1);
        assertThat(orders(harbour).takeBackPauses(Pause.Scope.tag("dark"))).isZero();
        harbour.advance(Duration.ofMinutes(15));
        assertThat(ran).endsWith(at(24), at(25));
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void aPauseInForceEndsWhenItIsToldToAndEarlierIfItIsResumed(VirtualBrume harbour) {
        define(harbour, everyMinute().ifMissed(IfMissed.skip()));
        assertThat(orders(harbour).pause(PauseOrder.of(LAMPS).until(at(30)))).isEqualTo(new PauseChange(true, 1));
        assertThat(orders(harbour).pause(PauseOrder.of(LAMPS).until(at(20))))
                .as("it is paused for longer already")
                .isEqualTo(new PauseChange(false, 0));
        harbour.advance(Duration.ofMinutes(5));
        assertThat(orders(harbour).resume(LAMPS)).isEqualTo(new PauseChange(true, 1));
        harbour.advance(Duration.ofMinutes(1));
        assertThat(ran).as("nothing that was owed in the pause is on time").containsExactly(at(6));

        orders(harbour).pause(PauseOrder.of(LAMPS).until(at(10)));
        orders(harbour).drop(JobName.parse("lamps"));
        harbour.advance(Duration.ofMinutes(10));
        assertThat(ran).hasSize(1);
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void aPauseGoesByTheDaysOfACalendarAndFollowsItWhenItChanges(VirtualBrume harbour) {
        LocalDate day = LocalDate.of(2026, 3, 2);
        harbour.brume()
                .define(DayCalendar.ofDates(
                        "dock", List.of(day.minusDays(1), day.plusDays(1), day.plusDays(2), day.plusDays(4))));
        define(harbour, Job.named("lamps").cron("0 6 * * *", "Europe/Lisbon").ifMissed(IfMissed.skip()));
        CalendarName dock = CalendarName.in(JobName.MAIN, "dock");

        harbour.brume().orders("ines", "in the dock").pause(PauseOrder.of(LAMPS).during(dock, LISBON));
        assertThat(harbour.brume().history().plannedPauses())
                .extracting(pause -> pause.since().atZone(LISBON).toLocalDate() + " "
                        + pause.until().get().atZone(LISBON).toLocalDate())
                .containsExactly("2026-03-03 2026-03-05", "2026-03-06 2026-03-07");
        harbour.brume().define(DayCalendar.ofDates("dock", List.of(day.plusDays(1), day.plusDays(5))));
        assertThat(harbour.brume().history().plannedPauses())
                .allMatch(pause -> pause.who().equals("ines"))
                .extracting(pause -> pause.since().atZone(LISBON).toLocalDate().getDayOfMonth())
                .containsExactly(3, 7);

        long lines = harbour.brume().history().changes(ChangeFilter.newest(100)).size();
        harbour.brume().define(DayCalendar.ofDates("dock", List.of(day.plusDays(1), day.plusDays(5))));
        assertThat(harbour.brume().history().changes(ChangeFilter.newest(100)))
                .as("the same days again")
                .hasSize((int) lines);

        harbour.advance(Duration.ofDays(7));
        assertThat(ran)
                .extracting(planned -> planned.atZone(LISBON).getDayOfMonth())
                .containsExactly(4, 5, 6, 8, 9);
        orders(harbour).pause(PauseOrder.of(LAMPS).during(dock, LISBON));
        harbour.brume().define(DayCalendar.ofDates("dock", List.of(day.plusDays(20))));
        assertThat(harbour.brume().history().plannedPauses())
                .as("all its days were past")
                .isEmpty();
        orders(harbour).pause(PauseOrder.of(LAMPS).during(dock, LISBON));
        assertThat(orders(harbour).takeBackPauses(LAMPS)).isEqualTo(1);
        harbour.brume().define(DayCalendar.ofDates("dock", List.of(day.plusDays(21))));
        assertThat(harbour.brume().history().plannedPauses())
                .as("it was taken back")
                .isEmpty();
        orders(harbour).pause(PauseOrder.of(LAMPS).during(dock, LISBON));
        harbour.brume().define(DayCalendar.of("dock", DayCalendar.weekdays("SUN"), List.of(), List.of()));
        assertThat(harbour.brume().history().plannedPauses())
                .as("it has no end any more")
                .isEmpty();
        assertThatThrownBy(() -> orders(harbour)
                        .pause(PauseOrder.of(LAMPS).during(CalendarName.in(JobName.MAIN, "docks"), LISBON)))
                .hasMessageContaining("calendar docks is not there");
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void turnsThatNobodyMadeAreMadeUpForOneByOne(VirtualBrume harbour) {
        define(harbour, everyMinute().ifMissed(IfMissed.runEach(100)).ifBusy(IfBusy.alongside(20)));
        orders(harbour).pause(PauseOrder.of(LAMPS).from(at(3)).until(at(6)).leavingOut());
        harbour.outage(Duration.ofMinutes(10));
        harbour.advance(Duration.ofMinutes(12));

        assertThat(harbour.brume().history().runs(RunFilter.newest(50)))
                .filteredOn(run -> run.owed().origin() == Origin.CATCH_UP)
                .extracting(RunView::owed)
                .extracting(owed -> owed.planned())
                .contains(at(1), at(2), at(6), at(7))
                .doesNotContain(at(3), at(4), at(5));
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void whatLiesBehindOrEndsBeforeItBeginsIsRefused(VirtualBrume harbour) {
        define(harbour, everyMinute());
        assertThatThrownBy(() -> orders(harbour).pause(PauseOrder.of(LAMPS).until(at(-1))))
                .hasMessageContaining("lies behind");
        assertThatThrownBy(() -> PauseOrder.of(LAMPS).from(at(3)).until(at(3)))
                .hasMessageContaining("would end before it begins");
        harbour.brume().define(DayCalendar.of("weekends", DayCalendar.weekdays("SAT,SUN"), List.of(), List.of()));
        assertThatThrownBy(() -> orders(harbour)
                        .pause(PauseOrder.of(LAMPS).during(CalendarName.in(JobName.MAIN, "weekends"), LISBON)))
                .hasMessageContaining("days in every week");
    }
}
