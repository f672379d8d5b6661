package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dev.brume.AttemptEnd;
import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.Work;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import dev.brume.spi.Completion;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Transaction;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Consumer;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What definitions, calendars and zone rules mean over time, on the store in memory with a clock moved by hand. */
class DefinitionsInForceTest {
    private static final ZoneId UTC = ZoneId.of("UTC");
    private static final CalendarName FEASTS = new CalendarName("main", "feasts");

    private final HandClock clock = new HandClock();
    private final MemoryStore store = new MemoryStore(clock::wall);
    private final List<Event> events = new ArrayList<>();
    private final Deque<LeasedRun> started = new ArrayDeque<>();
    private Instance instance;
    private RenewDuty keep;
    private RoundDuty round;
    private FinishDuty finish;

    @BeforeEach
    void open() {
        instance = join("quay-1", "2026a");
        round = new RoundDuty(instance);
        finish = new FinishDuty(instance, new SettleDuty(instance)::step);
    }

    private Instance join(String name, String tzdata) {
        Settings settings = new Settings(
                name,
                "host",
                1,
                Map.of("main", 4),
                Set.of(),
                Duration.ofSeconds(15),
                Duration.ofSeconds(1),
                50,
                tzdata);
        Instance joined = new Instance(settings, store, clock, events::add);
        joined.handlers().add(Work.PROGRAMS);
        WorkerPool workers = mock(WorkerPool.class);
        when(workers.free("main")).thenAnswer(call -> 4);
        doAnswer(call -> started.add(call.getArgument(0))).when(workers).start(any());
        joined.workers(workers);
        keep = new RenewDuty(joined, UUID::randomUUID);
        keep.step();
        return joined;
    }

    /** Lets time pass a minute at a time, ending every run at once. */
    private void pass(Duration duration) {
        Instant until = clock.wall().plus(duration);
        while (clock.wall().isBefore(until)) {
            clock.forward(Duration.ofSeconds(5));
            keep.step();
            round.step();
            while (!started.isEmpty()) {
                end(started.remove(), AttemptEnd.SUCCEEDED);
            }
        }
    }

    private void end(LeasedRun run, AttemptEnd how) {
        instance.completed(Completion.of(run, run.attempt(clock.nanos(), clock.nanos(), how, Optional.empty())));
        finish.step();
    }

    private Defined define(Job.Builder job) {
        return define(Map.of(), job).get(0);
    }

    private List<Defined> define(Map<CalendarName, DayCalendar> calendars, Job.Builder... jobs) {
        List<Job> built = new ArrayList<>();
        for (Job.Builder job : jobs) {
            built.add(job.build());
        }
        return new Registrar(instance)
                .define(
                        DefinitionSet.of("test", built).withCalendars(calendars),
                        Edit.by(Orderer.at(instance, "tester", "")));
    }

    private static Job.Builder job(Schedule schedule) {
        return Job.named("dues").schedule(schedule).program("true");
    }

    private JobView view() {
        return store.history().jobs().get(0);
    }

    private List<String> planned() {
        return store.history().runs(RunFilter.newest(1000)).stream()
                .map(run -> run.owed().planned().toString())
                .sorted()
                .toList();
    }

    private static DayCalendar feasts(String... dates) {
        List<LocalDate> days = new ArrayList<>();
        for (String date : dates) {
            days.add(LocalDate.parse(date));
        }
        return DayCalendar.ofDates("feasts", days);
    }

    private Instant at(Duration later) {
        return HandClock.BEGIN.plus(later);
    }

    // Calendars.

    @Test
    void aCalendarThatChangesIsANewVersionOfEveryJobThatGoesByIt() {
        Schedule schedule = CronSchedule.parse("0 9 * * *", UTC).with(Terms.NONE.notOn(DayCalendar.missing("feasts")));
        LocalDate tomorrow = LocalDate.ofInstant(HandClock.BEGIN, UTC).plusDays(1);
        define(
                Map.of(FEASTS, feasts()),
                job(schedule),
                Job.named("tides").every(Duration.ofHours(1)).program("true"));
        assertThat(define(job(schedule)).kind()).isEqualTo(Defined.Kind.UNCHANGED);

        define(Map.of(FEASTS, feasts(tomorrow.toString())));

        assertThat(store.history().calendars()).singleElement().satisfies(calendar -> {
            assertThat(calendar.row().number()).isEqualTo(2);
            assertThat(calendar.jobs()).isEqualTo(1);
        });
        assertThat(view().row().version()).isEqualTo(2);
        assertThat(view().job().next(tomorrow.atStartOfDay(UTC).toInstant()))
                .hasValueSatisfying(
                        next -> assertThat(next.local().toLocalDate()).isEqualTo(tomorrow.plusDays(1)));
        assertThat(events).anySatisfy(event -> assertThat(event.text()).contains("because calendar feasts changed"));
        assertThat(define(job(schedule)).kind()).isEqualTo(Defined.Kind.UNCHANGED);
    }

    @Test
    void aCalendarOfTheClusterIsForJobsOfEveryNamespaceAndMovesThemAll() {
        CalendarName everywhere = CalendarName.in("harbour", "/feasts");
        assertThat(everywhere.reference()).isEqualTo("/feasts");
        LocalDate tomorrow = LocalDate.ofInstant(HandClock.BEGIN, UTC).plusDays(1);
        DayCalendar none = DayCalendar.ofDates("/feasts", List.of());
        Job.Builder[] jobs = {ofDaysOff("harbour/dues"), ofDaysOff("ferry/fares")};
        define(Map.of(everywhere, none), jobs);

        define(Map.of(everywhere, DayCalendar.ofDates("/feasts", List.of(tomorrow))));

        assertThat(store.history().calendars()).singleElement().satisfies(calendar -> {
            assertThat(calendar.row().name()).hasToString("/feasts");
            assertThat(calendar.jobs()).isEqualTo(2);
        });
        assertThat(store.history().jobs()).hasSize(2).allSatisfy(view -> {
            assertThat(view.row().version()).isEqualTo(2);
            assertThat(view.job().next(tomorrow.atStartOfDay(UTC).toInstant()))
                    .hasValueSatisfying(
                            next -> assertThat(next.local().toLocalDate()).isEqualTo(tomorrow.plusDays(1)));
        });
    }

    private static Job.Builder ofDaysOff(String name) {
        return Job.named(name)
                .schedule(CronSchedule.parse("0 9 * * *", UTC).with(Terms.NONE.notOn(DayCalendar.missing("/feasts"))))
                .program("true");
    }

    @Test
    void aMissingCalendarIsAProblemUntilItIsDefined() {
        define(job(CronSchedule.parse("0 9 * * *", UTC).with(Terms.NONE.notOn(DayCalendar.missing("feasts")))));
        assertThat(events).anySatisfy(event -> {
            assertThat(event.kind()).isEqualTo(Event.Kind.PROBLEM);
            assertThat(event.text()).contains("calendar feasts, which nobody has defined");
        });

        define(Map.of(FEASTS, feasts("2030-01-01")));
        assertThat(view().row().version()).isEqualTo(2);
        assertThat(view().job().calendars().get(0).isMissing()).isFalse();
    }

    @Test
    void whatWasMovedAheadAndOwedIsNotOwedAgainWhenItsHolidayIsDeleted() {
        LocalDate first = LocalDate.ofInstant(HandClock.BEGIN, UTC);
        LocalDate feast = first.plusDays(2);
        Schedule onFeast = CronSchedule.parse("0 9 " + feast.getDayOfMonth() + " * *", UTC)
                .with(Terms.NONE.notOn(DayCalendar.missing("feasts")).ifDayOff(IfDayOff.PREVIOUS));
        define(Map.of(FEASTS, feasts(feast.toString())), job(onFeast));
        pass(Duration.between(
                HandClock.BEGIN, first.plusDays(1).atTime(12, 0).atZone(UTC).toInstant()));
        assertThat(planned()).containsExactly(first.plusDays(1) + "T09:00:00Z");

        define(Map.of(FEASTS, feasts()));
        pass(Duration.ofDays(2));
        assertThat(planned()).hasSize(1);
        assertThat(view().row().nextAt().orElseThrow()).isAfter(at(Duration.ofDays(20)));
    }

    // Limits and delays.

    @Test
    void aLimitGoesOnCountingAcrossVersions() {
        Schedule three = EverySchedule.of(Duration.ofMinutes(10)).with(Terms.NONE.atMost(3));
        define(job(three));
        pass(Duration.ofMinutes(12));
        int before = planned().size();
        assertThat(before).isEqualTo(2);

        assertThat(define(job(three).priority(7)).version()).isEqualTo(2);
        pass(Duration.ofHours(2));
        assertThat(planned()).hasSize(3);
        assertThat(view().row().nextAt()).isEmpty();
    }

    @Test
    void aDelayRunsFromTheFirstDefinitionWhateverChangesBeside() {
        OnceSchedule soon = OnceSchedule.parse("in 10m", UTC);
        define(job(soon));
        pass(Duration.ofMinutes(5));
        define(job(soon).priority(7));
        assertThat(define(job(soon).priority(7)).kind()).isEqualTo(Defined.Kind.UNCHANGED);
        pass(Duration.ofMinutes(20));

        assertThat(planned()).containsExactly(at(Duration.ofMinutes(10)).toString());
    }

    // After finish.

    @Test
    void afterFinishIsOwedAtOnceAndThenSoLongAfterEachEndWhateverItWas() {
        define(Job.named("dues").afterEnd(Duration.ofMinutes(10)).program("true"));
        round.step();
        LeasedRun first = started.remove();
        assertThat(view().row().nextAt()).isEmpty();
        clock.forward(Duration.ofSeconds(7));
        end(first, AttemptEnd.FAILED);
        assertThat(view().row().nextAt()).contains(at(Duration.ofSeconds(607)));

        pass(Duration.ofSeconds(602));
        assertThat(planned())
                .containsExactly(
                        HandClock.BEGIN.toString(), at(Duration.ofSeconds(607)).toString());
    }

    @Test
    void afterFinishGoesOnThroughNewVersionsAndSkips() {
        define(Job.named("dues").afterEnd(Duration.ofMinutes(10)).program("true"));
        round.step();
        LeasedRun first = started.remove();
        define(Job.named("dues").afterEnd(Duration.ofMinutes(20)).program("true"));
        end(first, AttemptEnd.SUCCEEDED);

        assertThat(view().row().version()).isEqualTo(2);
        assertThat(view().row().nextAt()).contains(at(Duration.ofMinutes(20)));
    }

    @Test
    void anOccurrenceSkippedBecauseTheJobIsBusyDoesNotEndTheChain() {
        define(Job.named("dues")
                .afterEnd(Duration.ofMinutes(10))
                .once(HandClock.BEGIN.plusSeconds(590))
                .ifBusy(IfBusy.skip())
                .program("true"));
        round.step();
        end(started.remove(), AttemptEnd.SUCCEEDED);
        clock.forward(Duration.ofSeconds(590));
        keep.step();
        round.step();
        LeasedRun slow = started.remove();
        clock.forward(Duration.ofSeconds(10));
        keep.step();
        round.step();

        assertThat(store.history().runs(RunFilter.newest(1)).get(0))
                .extracting(RunView::reason)
                .isNotNull();
        assertThat(view().row().nextAt()).contains(at(Duration.ofSeconds(1200)));
        end(slow, AttemptEnd.SUCCEEDED);
        assertThat(view().row().nextAt()).contains(at(Duration.ofSeconds(1200)));
    }

    // Zone rules.

    @Test
    void newerZoneRulesMoveNextOccurrencesAndSaySo() {
        define(job(CronSchedule.parse("0 9 * * *", ZoneId.of("Europe/Lisbon"))));
        JobRow row = view().row();
        Instant right = row.nextAt().orElseThrow();
        change(tx -> tx.advance(List.of(new JobAdvance(
                row.id(), row.cursor(), Optional.of(right.plusSeconds(3600)), row.runs(), Optional.empty()))));

        join("quay-2", "2026b");

        assertThat(view().row().nextAt()).contains(right);
        assertThat(events)
                .extracting(Event::kind, Event::text)
                .contains(
                        org.assertj.core.groups.Tuple.tuple(
                                Event.Kind.ZONE_RULES, "next occurrence " + right.plusSeconds(3600) + " -> " + right),
                        org.assertj.core.groups.Tuple.tuple(
                                Event.Kind.ZONE_RULES,
                                "zone rules 2026a -> 2026b: the next occurrence of 1 job moved"));
        assertThat(problems()).anySatisfy(text -> assertThat(text).contains("differ from those of quay-1 (2026a)"));
        assertThat(store.<String>transact(Transaction::tzdata)).isEqualTo("2026b");
    }

    @Test
    void anInstanceWithOlderZoneRulesIsReported() {
        join("quay-0", "2025c");

        assertThat(problems())
                .anySatisfy(
                        text -> assertThat(text).contains("zone rules 2025c of this instance are older than 2026a"));
        assertThat(store.<String>transact(Transaction::tzdata)).isEqualTo("2026a");
    }

    private List<String> problems() {
        return events.stream()
                .filter(event -> event.kind() == Event.Kind.PROBLEM)
                .map(Event::text)
                .toList();
    }

    private void change(Consumer<Transaction> steps) {
        store.transact(tx -> {
            steps.accept(tx);
            return null;
        });
    }
}
