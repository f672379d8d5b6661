package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Allowance;
import dev.brume.Brume;
import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotAllowedException;
import dev.brume.OneOff;
import dev.brume.Orders;
import dev.brume.PauseChange;
import dev.brume.Rate;
import dev.brume.history.AllowanceRow;
import dev.brume.history.ChangeFilter;
import dev.brume.history.JobFilter;
import dev.brume.history.NamespaceView;
import dev.brume.history.Pause;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.assertj.core.api.ThrowableAssert;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What namespaces may have whose people define for themselves. */
class AllowanceTest {
    private static final JobName BOARDS = JobName.parse("ferry/boards");

    private static Job.Builder boards() {
        return Job.named(BOARDS).handler("boards").lane("bulk").every(Duration.ofMinutes(5));
    }

    private static void refused(ThrowableAssert.ThrowingCallable defining, String why) {
        assertThatThrownBy(defining)
                .isInstanceOfSatisfying(
                        NotAllowedException.class, e -> assertThat(e.refusals()).isNotEmpty())
                .hasMessageContaining("is not allowed in the namespace ferry: ")
                .hasMessageContaining(why)
                .hasMessageContaining("brume allowance ferry");
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsBeyondItIsRefusedAndNothingOfItsSetIsWritten(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            brume.define(Job.named("harbour/tide-tables").handler("tides").build());
            brume.define(Job.named("harbour/night-watch").handler("watch").build());
            DayCalendar feasts = DayCalendar.ofDates("/feasts", List.of(LocalDate.of(2027, 1, 1)));
            brume.define(DefinitionSet.of("cluster", List.of())
                    .withLimits(Map.of("/tugs", 2, "/cranes", 1))
                    .withCalendars(Map.of(
                            CalendarName.in("main", "/feasts"),
                            DayCalendar.ofDates("feasts", List.of(LocalDate.of(2027, 1, 1))))));
            Allowance allowance = Allowance.OWN
                    .mostJobs(2)
                    .shortestInterval(Duration.ofMinutes(5))
                    .kinds(Set.of(Allowance.Kind.HANDLER))
                    .handlers(List.of("boards"))
                    .lanes(List.of("bulk"))
                    .longestPayload(2000)
                    .sharing(List.of("/tugs"))
                    .followedBy(List.of("harbour/tide-tables"));
            assertThat(brume.orders("ines", "tenant of pier 7").allow("ferry", allowance))
                    .isEmpty();

            refused(
                    () -> brume.define(
                            Job.named(BOARDS).program("true").lane("bulk").build()),
                    "program is not among");
            refused(() -> brume.define(boards().handler("sweep").build()), "handler: 'sweep' is not among");
            refused(() -> brume.define(boards().lane("main").build()), "lane: 'main' is not among");
            refused(
                    () -> brume.define(boards().payload("x".repeat(2001)).build()),
                    "2001 characters are more than the 2000");
            refused(() -> brume.define(boards().limit("/cranes").build()), "limits: '/cranes' is the whole cluster's");
            refused(
                    () -> brume.define(boards().exclusive("/quay").build()),
                    "exclusive: '/quay' is the whole cluster's");
            refused(
                    () -> brume.define(Job.named(BOARDS)
                            .handler("boards")
                            .lane("bulk")
                            .schedule(CronSchedule.parse("0 6 * * *", ZoneOffset.UTC)
                                    .with(Terms.NONE.notOn(feasts)))
                            .build()),
                    "calendars: '/feasts' is the whole cluster's");
            refused(
                    () -> brume.define(boards().followUp(FollowUp.On.END, "harbour/night-watch")
                            .build()),
                    "followUps: 'harbour/night-watch' is another namespace's");
            refused(
                    () -> brume.define(DefinitionSet.of("ferry.yaml", List.of(boards().build()))
                            .within("ferry")
                            .withLimits(Map.of("/pumps", 1))),
                    "limits: '/pumps' is the whole cluster's");
            DefinitionSet three = DefinitionSet.of(
                    "ferry.yaml",
                    List.of("a", "b", "c").stream()
                            .map(name -> Job.named("ferry/" + name)
                                    .handler("boards")
                                    .lane("bulk")
                                    .build())
                            .toList());
            refused(() -> brume.define(three), "jobs: 0 are there, and 2 is the most");
            assertThat(brume.history().jobs())
                    .extracting(view -> view.row().name().namespace())
                    .containsOnly("harbour");
            assertThat(DefinitionDiff.of(three, brume.history(), brume.history().now(), Duration.ofDays(1))
                            .notAllowed())
                    .containsExactly("namespace ferry: jobs: 0 are there, and 2 is the most it may have");

            brume.define(boards().limit("/tugs")
                    .payload("x".repeat(2000))
                    .followUp(FollowUp.On.SUCCESS, "harbour/tide-tables")
                    .build());
            refused(() -> brume.orders("ines", "").runNow(BOARDS, "y".repeat(2001)), "2001 characters");
            refused(() -> brume.oneOffs().add(OneOff.of(BOARDS, "now").payload("y".repeat(2001))), "2001 characters");
            assertThat(brume.oneOffs()
                            .add(OneOff.of(BOARDS, "now").payload("y".repeat(2000)))
                            .changed())
                    .isTrue();

            NamespaceView ferry = brume.history().namespaces().get(0);
            AllowanceRow row = ferry.allowance().orElseThrow();
            assertThat(row.allowance()).isEqualTo(allowance).hasSameHashCodeAs(allowance);
            assertThat(row.setBy()).isEqualTo("ines");
            assertThat(ferry.jobs()).isEqualTo(1);
            assertThat(brume.history().changes(ChangeFilter.newest(5)))
                    .filteredOn(change -> change.change().kind().equals("ALLOWED"))
                    .singleElement()
                    .satisfies(change -> assertThat(change.change().text())
                            .isEqualTo(
                                    "namespace ferry: at most 2 jobs; occurrences at least 5m apart; work handler; handlers"
                                            + " boards; lanes bulk; payloads of at most 2000 characters; of the cluster's /tugs;"
                                            + " follow-ups harbour/tide-tables"));

            assertThat(brume.orders("ines", "").allowAnything("ferry")).contains(allowance);
            brume.define(boards().lane("main").limit("/cranes").build());
            assertThat(brume.history().namespaces().get(0).allowance()).isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void namespacesAreCountedPausedFoundAndDroppedAsAWhole(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            for (String name : List.of("ferry/boards", "ferry/boats", "ferry/buoys", "ferry-two/boards", "dues")) {
                brume.define(
                        Job.named(name).handler("x").every(Duration.ofHours(1)).build());
            }
            Orders ines = brume.orders("ines", "");
            ines.allow("pilots", Allowance.OWN);
            Optional<AllowanceRow> pilots = brume.history().namespaces().get(3).allowance();
            assertThat(pilots.map(AllowanceRow::allowance)).contains(Allowance.OWN);
            assertThat(ines.pause(Pause.Scope.namespace("ferry"))).isEqualTo(new PauseChange(true, 3));
            brume.define(Job.named("ferry/lamps")
                    .handler("x")
                    .every(Duration.ofHours(1))
                    .build());
            assertThat(brume.history().namespaces())
                    .containsExactly(
                            new NamespaceView("ferry", 4, 4, Optional.empty()),
                            new NamespaceView("ferry-two", 1, 0, Optional.empty()),
                            new NamespaceView("main", 1, 0, Optional.empty()),
                            new NamespaceView("pilots", 0, 0, pilots));
            assertThat(brume.history().jobs(JobFilter.first(10).within("ferry").named("bo*")))
                    .extracting(view -> view.name().toString())
                    .containsExactly("ferry/boards", "ferry/boats");
            assertThat(ines.resume(Pause.Scope.namespace("ferry"))).isEqualTo(new PauseChange(true, 4));

            assertThat(ines.dropAll("ferry")).isEqualTo(4);
            assertThat(ines.dropAll("ferry")).isZero();
            assertThatThrownBy(() -> ines.dropAll("a/b")).hasMessageContaining("namespace 'a/b' is not a name");
            assertThat(brume.history().jobs())
                    .extracting(view -> view.name().toString())
                    .containsExactly("ferry-two/boards", "dues");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsInForceStaysAndMayBeDefinedOnceMore(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            DefinitionSet set = DefinitionSet.of(
                            "ferry.yaml", List.of(boards().limit("/tugs").build()))
                    .within("ferry")
                    .withLimits(Map.of("/tugs", 2))
                    .withRates(Map.of("/tugs", Rate.of(100, Duration.ofHours(1))));
            brume.define(set);
            brume.orders("ines", "").allow("ferry", Allowance.OWN.shortestInterval(Duration.ofHours(1)));

            assertThat(brume.define(set)).extracting(Defined::kind).containsExactly(Defined.Kind.UNCHANGED);
            assertThat(DefinitionDiff.of(set, brume.history(), brume.history().now(), Duration.ofDays(1))
                            .notAllowed())
                    .isEmpty();
            refused(() -> brume.define(set.withLimits(Map.of("/tugs", 3))), "limits: '/tugs' is the whole cluster's");
            refused(
                    () -> brume.define(set.withRates(Map.of("/tugs", Rate.of(1, Duration.ofDays(1))))),
                    "limits: '/tugs' is the whole cluster's");
            refused(() -> brume.define(boards().limit("/tugs").tag("x").build()), "leaves only 5m between");
        }
    }

    @Test
    void aCalendarIsChangedForJobsThatWouldNotBeAllowedAnyMore() {
        try (Db.Fresh fresh = Db.H2.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            DayCalendar feasts = DayCalendar.ofDates("feasts", List.of(LocalDate.of(2027, 1, 1)));
            brume.define(DefinitionSet.of(
                            "ferry.yaml",
                            List.of(boards().schedule(CronSchedule.parse("0 6 * * *", ZoneOffset.UTC)
                                            .with(Terms.NONE.notOn(feasts)))
                                    .build()))
                    .withCalendars(Map.of(CalendarName.in("ferry", "feasts"), feasts)));
            brume.orders("ines", "").allow("ferry", Allowance.OWN.shortestInterval(Duration.ofHours(1)));

            brume.define(DefinitionSet.of("ferry.yaml", List.of())
                    .within("ferry")
                    .withCalendars(Map.of(
                            CalendarName.in("ferry", "feasts"),
                            DayCalendar.ofDates("feasts", List.of(LocalDate.of(2027, 1, 2))))));
            assertThat(brume.history().job(BOARDS).orElseThrow().row().version())
                    .isEqualTo(2);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void jobsAreOnlyAddedOrOnlyUpdatedAndNamedByTheirTime(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            Job job = boards().build();
            assertThat(brume.redefine(job)).isEqualTo(new Defined(BOARDS, Defined.Kind.NOT_THERE, 0));
            assertThat(brume.history().jobs()).isEmpty();
            assertThat(brume.defineNew(job)).isEqualTo(new Defined(BOARDS, Defined.Kind.NEW, 1));
            Job other = boards().tag("night").build();
            assertThat(brume.defineNew(other)).isEqualTo(new Defined(BOARDS, Defined.Kind.ALREADY_THERE, 1));
            assertThat(brume.history().job(BOARDS).orElseThrow().job().tags()).isEmpty();
            assertThat(brume.redefine(other)).isEqualTo(new Defined(BOARDS, Defined.Kind.CHANGED, 2));
            assertThat(brume.redefine(other)).isEqualTo(new Defined(BOARDS, Defined.Kind.UNCHANGED, 2));

            JobName first = brume.newName("ferry");
            assertThat(brume.defineNew(Job.named(first).handler("boards").build())
                            .name())
                    .isEqualTo(first);
            assertThat(first.namespace()).isEqualTo("ferry");
            assertThat(first.name()).matches("[0-9a-z]{22}");
            Instant now = brume.history().now();
            JobName later = first;
            while (later.name().substring(0, 10).equals(first.name().substring(0, 10))) {
                later = brume.newName("ferry");
            }
            assertThat(later).isGreaterThan(first);
            assertThat(brume.history().now()).isAfter(now);
            assertThatThrownBy(() -> brume.newName("a b")).hasMessageContaining("'a b' is not a name");
        }
    }

    @Test
    void howFarApartOccurrencesAreIsSeenFromTheNextOnes() {
        try (Db.Fresh fresh = Db.H2.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            brume.orders("ines", "").allow("ferry", Allowance.OWN.shortestInterval(Duration.ofHours(1)));
            for (String cron : List.of("*/59 * * * *", "0,5 4 29 2 *")) {
                Job job = Job.named(BOARDS).handler("boards").cron(cron, "UTC").build();
                refused(() -> brume.define(job), "between two occurrences, and 1h is the least");
            }
            brume.define(Job.named(BOARDS)
                    .handler("boards")
                    .cron("0 4 * * SUN,MON", "UTC")
                    .build());
            refused(
                    () -> brume.define(Job.named(BOARDS)
                            .handler("boards")
                            .schedule(AfterEndSchedule.of(Duration.ofMinutes(20), ZoneOffset.UTC))
                            .build()),
                    "leaves only 20m between two occurrences, and 1h is the least");
            refused(
                    () -> brume.define(Job.named(BOARDS)
                            .handler("boards")
                            .cron("0 4 * * *", "UTC")
                            .schedule(EverySchedule.of(Duration.ofDays(1))
                                    .withAnchor(Instant.parse("2026-01-01T04:30:00Z")))
                            .build()),
                    "are 30m apart");
            brume.orders("ines", "").allow("ferry", Allowance.OWN.shortestInterval(Duration.ofDays(1)));
            brume.define(Job.named(BOARDS)
                    .handler("boards")
                    .cron("0 4 1-15 * *", "Atlantic/Azores")
                    .cron("0 4 16-31 * *", "Atlantic/Azores")
                    .build());
        }
    }

    @Test
    void manyWhoDefineAtOnceDoNotExceedIt() throws Exception {
        try (Db.Fresh fresh = Db.POSTGRESQL.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            brume.orders("ines", "").allow("ferry", Allowance.OWN.mostJobs(3));
            AtomicInteger refusals = new AtomicInteger();
            List<CompletableFuture<Void>> defining = IntStream.range(0, 8)
                    .mapToObj(i -> Threads.run(() -> {
                        try {
                            brume.define(Job.named("ferry/job-" + i)
                                    .handler("boards")
                                    .build());
                        } catch (NotAllowedException e) {
                            refusals.incrementAndGet();
                        }
                    }))
                    .toList();
            for (CompletableFuture<Void> each : defining) {
                each.get(60, TimeUnit.SECONDS);
            }
            assertThat(brume.history().jobs()).hasSize(3);
            assertThat(refusals).hasValue(5);
        }
    }

    @Test
    void whatCannotBeAnAllowanceIsRefused() {
        assertThatThrownBy(() -> Allowance.OWN.mostJobs(0)).hasMessageContaining("outside 1 to");
        assertThatThrownBy(() -> Allowance.OWN.shortestInterval(Duration.ofMillis(10)))
                .hasMessageContaining("interval");
        assertThatThrownBy(() -> Allowance.OWN.longestPayload(10)).hasMessageContaining("outside 1000 to");
        assertThatThrownBy(() -> Allowance.OWN.sharing(List.of("tugs"))).hasMessageContaining("/NAME, or /* for all");
        assertThatThrownBy(() -> Allowance.OWN.followedBy(List.of("tides")))
                .hasMessageContaining("NAMESPACE/NAME, or NAMESPACE/* for all");
        assertThatThrownBy(() -> Allowance.OWN.lanes(List.of(" "))).hasMessageContaining("lanes: ' ' is not a name");
    }
}
