package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Allowance;
import dev.brume.Brume;
import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.StoreException;
import dev.brume.history.AfterEnd;
import dev.brume.history.AllowanceRow;
import dev.brume.history.CalendarRow;
import dev.brume.history.ChangeFilter;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.NamespaceView;
import dev.brume.history.Pause;
import dev.brume.history.VersionKey;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Terms;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Transaction;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What a store does with definitions, calendars and revisions. */
abstract class DefinitionContract extends StoreFixture {
    @Test
    void aDefinitionComesBackAsItWasGiven() {
        Job job = job("tide-tables")
                .description("Ebbe & Flut – «潮汐»")
                .every(Duration.ofSeconds(90))
                .once(Instant.parse("2027-05-14T06:00:00.123456Z"))
                .ifBusy(IfBusy.waiting(3))
                .ifFailed(IfFailed.attempts(3, Duration.ofSeconds(10)).factor(2).cap(Duration.ofMinutes(5)))
                .ifMissed(IfMissed.runEach(4).tolerance(Duration.ofSeconds(30)))
                .timeLimit(Duration.ofMillis(1500))
                .lane("night")
                .priority(9)
                .tag("b")
                .tag("a")
                .payload("{\"x\": \"ü\"}")
                .build();
        long id = define(job, now().plusSeconds(60));

        JobRow row = store.history().job(job.name()).orElseThrow().row();
        assertThat(row.id()).isEqualTo(id);
        assertThat(definitions(List.of(row.versionKey()))).containsEntry(row.versionKey(), job);
        assertThat(store.history().job(job.name()).orElseThrow().job()).isEqualTo(job);
    }

    @Test
    void anUnchangedDefinitionWritesNothingAndAChangedOneGetsTheNextVersion() {
        Brume brume = Brume.on(store).instance("definer").build();
        Job job = job("tide-tables").build();

        assertThat(brume.define(job).kind()).isEqualTo(Defined.Kind.NEW);
        Instant defined = store.history().job(job.name()).orElseThrow().definedAt();
        assertThat(brume.define(job).kind()).isEqualTo(Defined.Kind.UNCHANGED);
        assertThat(store.history().job(job.name()).orElseThrow().definedAt()).isEqualTo(defined);

        Defined changed = brume.define(job("tide-tables").priority(1).build());
        assertThat(changed.kind()).isEqualTo(Defined.Kind.CHANGED);
        assertThat(changed.version()).isEqualTo(2);
        assertThat(store.history().jobs()).hasSize(1);
    }

    @Test
    void jobsAreFoundByWhatTheyAreAPageAtATime() {
        Brume brume = Brume.on(store).instance("definer").build();
        brume.define(DefinitionSet.of(
                "test",
                List.of(
                        Job.named("harbour/tide_tables")
                                .program("true")
                                .tag("tides")
                                .build(),
                        Job.named("harbour/tideXtables").program("true").build(),
                        Job.named("harbour-2/tide-print")
                                .program("true")
                                .tag("tides")
                                .build(),
                        Job.named("quay/tides")
                                .program("true")
                                .followUp(FollowUp.On.SUCCESS, "harbour-2/tide-print")
                                .build(),
                        Job.named("buoys").program("true").tag("tides-old").build())));
        brume.orders("anna", "test").pause(Pause.Scope.of(JobName.parse("quay/tides")));
        JobFilter all = JobFilter.first(2);

        assertThat(found(all)).containsExactly("harbour-2/tide-print", "harbour/tideXtables");
        assertThat(found(all.after(JobName.parse("harbour/tideXtables"))))
                .containsExactly("harbour/tide_tables", "buoys");
        assertThat(found(JobFilter.first(9).named("*e_*"))).containsExactly("harbour/tide_tables");
        assertThat(found(JobFilter.first(9).within("harbour")))
                .containsExactly("harbour/tideXtables", "harbour/tide_tables");
        assertThat(found(JobFilter.first(1).withTag("tides"))).containsExactly("harbour-2/tide-print");
        assertThat(found(JobFilter.first(9).thatArePaused())).containsExactly("quay/tides");
        assertThat(found(JobFilter.first(9).thatFail())).isEmpty();
        assertThat(found(JobFilter.first(9).followedBy(JobName.parse("harbour-2/tide-print"))))
                .containsExactly("quay/tides");
        assertThat(store.history().jobCount()).isEqualTo(5);
    }

    @Test
    void jobsAreListedByWhenTheyAreDueNextThoseThatOweNothingLast() {
        Brume brume = Brume.on(store).instance("definer").build();
        brume.define(DefinitionSet.of(
                "test",
                List.of(
                        Job.named("audit")
                                .cron("0 0 1 1 *", "UTC")
                                .program("true")
                                .build(),
                        Job.named("buoys")
                                .cron("* * * * *", "UTC")
                                .program("true")
                                .build(),
                        Job.named("charts").program("true").build(),
                        Job.named("dredging")
                                .cron("* * * * *", "UTC")
                                .program("true")
                                .build(),
                        Job.named("harbour/ferries")
                                .cron("* * * * *", "UTC")
                                .program("true")
                                .build())));
        brume.orders("anna", "test").pause(Pause.Scope.of(JobName.parse("buoys")));
        JobFilter all = JobFilter.first(9).in(JobOrder.NEXT);

        assertThat(found(all)).containsExactly("harbour/ferries", "dredging", "audit", "buoys", "charts");
        assertThat(found(JobFilter.first(2).in(JobOrder.NEXT))).containsExactly("harbour/ferries", "dredging");
        assertThat(found(all.after(JobName.parse("harbour/ferries"))))
                .containsExactly("dredging", "audit", "buoys", "charts");
        assertThat(found(all.after(JobName.parse("audit")))).containsExactly("buoys", "charts");
        assertThat(found(all.after(JobName.parse("buoys")))).containsExactly("charts");
        assertThatThrownBy(() -> found(all.after(JobName.parse("gone"))))
                .hasMessage("there is no job gone to go on behind; begin anew");
    }

    private List<String> found(JobFilter filter) {
        return store.history().jobs(filter).stream()
                .map(view -> view.name().toString())
                .toList();
    }

    @Test
    void aRenamedJobKeepsItsHistoryAndIsNamedAnewByThoseItFollows() {
        Brume brume = Brume.on(store).instance("definer").build();
        JobName print = JobName.parse("print");
        JobName sheets = JobName.parse("sheets");
        DefinitionSet file = DefinitionSet.of(
                "harbour.yaml",
                List.of(
                        Job.named("tides")
                                .program("true")
                                .followUp(FollowUp.On.SUCCESS, "print")
                                .build(),
                        Job.named(print).program("true").build()));
        brume.define(file);
        brume.orders("anna", "test").pause(Pause.Scope.of(print));
        brume.oneOffs().add(OneOff.of(print, "waits").at(now().plusSeconds(3600)));
        long id = store.history().job(print).orElseThrow().row().id();

        assertThat(brume.orders("ines", "as they say").rename(print, sheets)).containsExactly(JobName.parse("tides"));

        JobView renamed = store.history().job(sheets).orElseThrow();
        assertThat(renamed.row().id()).isEqualTo(id);
        assertThat(renamed.row().version()).isEqualTo(2);
        assertThat(renamed.row().paused()).isTrue();
        assertThat(renamed.job().name()).isEqualTo(sheets);
        assertThat(store.history().job(print)).isEmpty();
        assertThat(store.history().pauses()).extracting(Pause::scope).containsExactly(Pause.Scope.of(sheets));
        assertThat(brume.oneOffs().waiting(sheets, "", 9)).hasSize(1);
        assertThat(store.history()
                        .job(JobName.parse("tides"))
                        .orElseThrow()
                        .job()
                        .followUps())
                .containsExactly(new FollowUp(FollowUp.On.SUCCESS, sheets));
        assertThat(store.history().changes(ChangeFilter.newest(10).of(sheets)))
                .extracting(view -> view.change().kind())
                .containsExactly("RENAMED", "CHANGED", "ONE_OFF_ADDED", "PAUSED", "DEFINED");
        assertThat(store.history().renamed(List.of(print, sheets))).isEqualTo(Map.of(print, sheets));

        assertThat(brume.define(file))
                .as("its file has the former name")
                .extracting(Defined::kind)
                .containsExactly(Defined.Kind.UNCHANGED, Defined.Kind.OUTDATED);
        assertThat(store.history().jobCount()).isEqualTo(2);
        assertThat(brume.define(
                        DefinitionSet.of("other.yaml", List.of(file.jobs().get(1)))))
                .extracting(Defined::kind)
                .containsExactly(Defined.Kind.NEW);
        assertThat(store.history().renamed(List.of(print)))
                .as("the name is another's")
                .isEmpty();

        assertThatThrownBy(() -> brume.orders("ines", "").rename(sheets, print))
                .hasMessageContaining("there is a job print already");
        assertThatThrownBy(() -> brume.orders("ines", "").rename(sheets, JobName.parse("quay/sheets")))
                .hasMessageContaining("stays in its namespace");
        assertThatThrownBy(() -> brume.orders("ines", "").rename(JobName.parse("nothing"), JobName.parse("else")))
                .isInstanceOf(NotThereException.class);
    }

    @Test
    void aVersionComesBackWithItsCalendarsItsCountAndItsPlaceInAChain() {
        Brume brume = Brume.on(store).instance("definer").build();
        DayCalendar feasts = DayCalendar.of(
                "feasts",
                Set.of(DayOfWeek.SUNDAY),
                List.of(LocalDate.parse("2026-12-24")),
                List.of(LocalDate.parse("2026-12-27")));
        CalendarName key = new CalendarName("harbour", "feasts");
        Job job = Job.named("harbour/dues")
                .schedule(CronSchedule.parse("0 9 * * *", ZoneId.of("Atlantic/Azores"))
                        .with(Terms.NONE
                                .notOn(DayCalendar.missing("feasts"))
                                .ifDayOff(IfDayOff.NEXT)
                                .atMost(40)))
                .afterEnd(Duration.ofMinutes(10))
                .spread(Duration.ofMinutes(5))
                .program("true")
                .build();
        brume.define(DefinitionSet.of("test", List.of(job)).withCalendars(Map.of(key, feasts)));

        JobView view = store.history().job(job.name()).orElseThrow();
        assertThat(view.job()).isEqualTo(job.withCalendars(Map.of("feasts", feasts)));
        assertThat(view.job().calendars()).containsExactly(feasts);
        assertThat(view.job().timeline().count(now(), now().plus(Duration.ofDays(400))))
                .isEqualTo(40);
        assertThat(view.row().afterEnd().orElseThrow().due())
                .isPresent()
                .isEqualTo(view.row().nextAt());
        assertThat(definition(view.row().versionKey()).calendars()).containsExactly(feasts);
        assertThat(brume.define(DefinitionSet.of("test", List.of(job)).withCalendars(Map.of(key, feasts))))
                .extracting(Defined::kind)
                .containsExactly(Defined.Kind.UNCHANGED);
    }

    @Test
    void calendarsHaveVersionsAndKnowTheirUsers() {
        calendarHasVersionsAndKnowsItsUsers("feasts");
    }

    @Test
    void calendarsOfTheClusterHaveVersionsAndKnowTheirUsers() {
        calendarHasVersionsAndKnowsItsUsers("/feasts");
    }

    private void calendarHasVersionsAndKnowsItsUsers(String reference) {
        Brume brume = Brume.on(store).instance("definer").build();
        CalendarName key = CalendarName.in("harbour", reference);
        Job job = Job.named("harbour/dues")
                .schedule(CronSchedule.parse("0 9 * * *", ZoneId.of("Atlantic/Azores"))
                        .with(Terms.NONE.notOn(DayCalendar.missing(reference))))
                .program("true")
                .build();
        DayCalendar first = DayCalendar.ofDates(reference, List.of(LocalDate.parse("2026-12-24")));
        DayCalendar second = DayCalendar.ofDates(reference, List.of(LocalDate.parse("2026-12-26")));
        brume.define(DefinitionSet.of("test", List.of(job, job("tide-tables").build()))
                .withCalendars(Map.of(key, first)));

        brume.define(DefinitionSet.of("other", List.of()).withCalendars(Map.of(key, second)));

        assertThat(store.<Map<CalendarName, CalendarRow>>transact(tx -> tx.calendars(List.of(key))))
                .containsEntry(key, new CalendarRow(key, 2, second, "other"));
        assertThat(store.history().calendars()).singleElement().satisfies(view -> {
            assertThat(view.row().days()).isEqualTo(second);
            assertThat(view.jobs()).isEqualTo(1);
        });
        JobView view = store.history().job(job.name()).orElseThrow();
        assertThat(view.row().version()).isEqualTo(2);
        assertThat(view.job().calendars()).containsExactly(second);
        VersionKey before = new VersionKey(view.row().id(), 1);
        assertThat(definition(before).calendars()).containsExactly(first);
        assertThat(store.<List<JobRow>>transact(tx -> tx.lockJobsUsing(key, 2, 10)))
                .isEmpty();
        assertThat(store.<List<JobRow>>transact(tx -> tx.lockJobsUsing(key, 3, 10))
                        .size())
                .isLessThanOrEqualTo(1);
    }

    @Test
    void whereAChainStandsIsWrittenWithTheJobsRow() {
        long id = define(job("tide-tables").build(), now().plusSeconds(60));
        assertThat(lockOne(id).afterEnd()).isEmpty();

        for (AfterEnd state : List.of(AfterEnd.waiting(77), AfterEnd.due(now().plusSeconds(5)))) {
            JobRow row = lockOne(id);
            store.transact(tx -> {
                tx.advance(List.of(new JobAdvance(id, row.cursor(), row.nextAt(), row.runs(), Optional.of(state))));
                return null;
            });
            assertThat(lockOne(id).afterEnd()).contains(state);
        }
    }

    @Test
    void theVersionOfTheZoneRulesIsNoted() {
        assertThat(store.<String>transact(Transaction::tzdata)).isEmpty();
        store.transact(tx -> {
            tx.tzdata("2026b");
            return null;
        });
        assertThat(store.<String>transact(Transaction::tzdata)).isEqualTo("2026b");
        long id = define(job("tide-tables").build(), now().plusSeconds(60));
        assertThat(store.<List<JobRow>>transact(tx -> tx.lockJobsAfter(id - 1, 5)))
                .extracting(JobRow::id)
                .contains(id);
        assertThat(store.<List<JobRow>>transact(tx -> tx.lockJobsAfter(id, 5))).isEmpty();
    }

    @Test
    void aDroppedJobGivesItsNameBackAndKeepsItsHistory() {
        Brume brume = Brume.on(store).instance("definer").build();
        Job job = job("tide-tables").build();
        brume.define(job);
        long first = store.history().job(job.name()).orElseThrow().row().id();

        assertThat(brume.drop(job.name())).isTrue();
        assertThat(brume.drop(job.name())).isFalse();
        assertThat(store.history().jobs()).isEmpty();
        brume.define(job);
        assertThat(store.history().job(job.name()).orElseThrow().row().id()).isNotEqualTo(first);
    }

    @Test
    void aNameCannotBeTakenTwice() {
        define(job("tide-tables").build(), now());

        assertThatThrownBy(() -> define(job("tide-tables").build(), now()))
                .isInstanceOfSatisfying(
                        StoreException.class, e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.CONFLICT));
    }

    @Test
    void whatANamespaceIsAllowedIsOnRecordAndItsJobsAreCounted() {
        define(Job.named("ferry/boards").program("true").build(), past(1));
        define(Job.named("ferry-two/boards").program("true").build(), past(1));
        Allowance allowance = Allowance.OWN
                .mostJobs(3)
                .shortestInterval(Duration.ofMinutes(5))
                .kinds(Set.of(Allowance.Kind.PROGRAM, Allowance.Kind.REQUEST))
                .handlers(List.of("boards"))
                .lanes(List.of("bulk"))
                .longestPayload(5000)
                .sharing(List.of("/*"))
                .followedBy(List.of("harbour/*"));
        store.transact(tx -> {
            tx.orders().allow("ferry", Optional.of(Allowance.OWN), "tom");
            tx.orders().allow("ferry", Optional.of(allowance), "ines");
            return null;
        });

        store.transact(tx -> {
            assertThat(tx.orders().allowance("ferry")).contains(allowance);
            assertThat(tx.orders().allowance("ferry-two")).isEmpty();
            assertThat(tx.orders().jobsIn("ferry")).isEqualTo(1);
            assertThat(tx.orders().jobsIn("harbour")).isZero();
            return null;
        });
        assertThat(store.history().namespaces()).hasSize(2);
        NamespaceView ferry = store.history().namespaces().get(0);
        assertThat(ferry.jobs()).isEqualTo(1);
        assertThat(ferry.allowance().orElseThrow())
                .extracting(AllowanceRow::allowance, AllowanceRow::setBy)
                .containsExactly(allowance, "ines");
        store.transact(tx -> {
            tx.orders().allow("ferry", Optional.empty(), "ines");
            return null;
        });
        assertThat(store.history().namespaces())
                .extracting(NamespaceView::allowance)
                .containsOnly(Optional.empty());
    }
}
