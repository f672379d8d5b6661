package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.CalendarKey;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.port.AfterEnd;
import dev.brume.port.CalendarRow;
import dev.brume.port.Claim;
import dev.brume.port.Gate;
import dev.brume.port.HeldRun;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.JobView;
import dev.brume.port.LeaseKey;
import dev.brume.port.LedgerLine;
import dev.brume.port.NewJob;
import dev.brume.port.Numbers;
import dev.brume.port.OneOff;
import dev.brume.port.OneOffRow;
import dev.brume.port.Output;
import dev.brume.port.Recount;
import dev.brume.port.Renewal;
import dev.brume.port.RunEnd;
import dev.brume.port.RunFilter;
import dev.brume.port.RunRelease;
import dev.brume.port.RunRow;
import dev.brume.port.RunView;
import dev.brume.port.SessionLease;
import dev.brume.port.SessionRow;
import dev.brume.port.Settle;
import dev.brume.port.Span;
import dev.brume.port.Store;
import dev.brume.port.StoreException;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Terms;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/**
 * What every store must do; to be extended by a test class for each.
 *
 * <p>It works on the store's own clock, so nothing here waits: what is to be late or lapsed is written
 * in the past.
 */
public abstract class StoreContract {
    private static final LocalDateTime NOMINAL = LocalDateTime.parse("2026-03-29T00:30");

    /** The store under test. */
    protected Store store;

    /** Creates the contract. */
    protected StoreContract() {}

    /** Opens an empty store. */
    protected abstract Store open();

    @BeforeEach
    void openStore() {
        store = open();
        store.prepare();
    }

    @AfterEach
    void closeStore() {
        store.close();
    }

    // Helpers.

    private Instant now() {
        return store.history().now();
    }

    private static Job.Builder job(String name) {
        return Job.named("harbour/" + name)
                .cron("*/5 * * * *", "Atlantic/Azores")
                .program("true");
    }

    private long define(Job job, Instant nextAt) {
        return store.transact(tx ->
                        tx.addJobs(List.of(NewJob.plain(job, "test", now().minusSeconds(60), Optional.of(nextAt)))))
                .get(0);
    }

    private SessionRow session(String instance, Instant leaseUntil) {
        Instant opened = now();
        SessionRow row = new SessionRow(
                UUID.randomUUID(),
                instance,
                "host",
                7,
                List.of("main=4", "night=1"),
                "1.0",
                "2026a",
                0,
                SessionRow.State.OPEN,
                opened,
                opened,
                leaseUntil,
                Optional.empty());
        store.transact(tx -> {
            tx.addSession(row);
            return null;
        });
        return row;
    }

    private SessionRow liveSession(String instance) {
        return session(instance, now().plusSeconds(600));
    }

    private RunRow run(long job, Instant planned, RunState state, Optional<RunRow.Lease> lease, int priority) {
        Numbers numbers = store.transact(tx -> tx.take(1));
        RunRow.Owed owed = new RunRow.Owed(
                job, planned, "", Origin.SCHEDULE, NOMINAL, "Atlantic/Azores", Optional.of("AFTER_GAP"));
        return new RunRow(
                numbers.ids().get(0),
                owed,
                1,
                state,
                "main",
                priority,
                Optional.empty(),
                planned,
                lease,
                List.of(),
                lease.isPresent() ? 1 : 0,
                Optional.of("{\"quay\":4}"),
                List.of());
    }

    private RunRow add(RunRow run) {
        store.transact(tx -> {
            tx.addRuns(List.of(run));
            return null;
        });
        return run;
    }

    private RunRow leased(long job, Instant planned, SessionRow session) {
        long fence = store.transact(tx -> tx.take(1)).fences().get(0);
        return add(run(job, planned, RunState.RUNNING, Optional.of(new RunRow.Lease(session.id(), fence, now())), 5));
    }

    private List<RunRow> claim(SessionRow session, int limit, Set<String> handlers) {
        return store.transact(tx -> tx.claim(new Claim(session.id(), 0, "main", handlers, Optional.empty(), limit)));
    }

    private Attempt ended(RunRow run, AttemptEnd end, String error) {
        RunRow.Lease lease = run.lease().orElseThrow();
        return new Attempt(
                run.attempt(),
                "quay-1",
                lease.session(),
                lease.fence(),
                lease.since(),
                Optional.of(now()),
                Optional.of(end),
                Optional.ofNullable(error));
    }

    private Set<LeaseKey> end(LeaseKey lease, Attempt last) {
        RunEnd end = new RunEnd(
                lease,
                Outcome.SUCCEEDED,
                Optional.empty(),
                last,
                Optional.of("done"),
                Optional.of(new Output("naïve 🌫 output\n", 18, 0)));
        return store.transact(tx -> tx.end(List.of(end)));
    }

    private Set<LeaseKey> release(RunRow run, RunState state, Instant readyAt, Attempt last) {
        RunRelease release = new RunRelease(
                run.leaseKey(), state, readyAt, List.of(last), Optional.of(new Output("half done", 9, 0)));
        return store.transact(tx -> tx.release(List.of(release)));
    }

    private List<JobRow> due(Optional<Instant> hint, int limit) {
        return store.transact(tx -> tx.lockDueJobs(hint, Optional.empty(), limit));
    }

    private Map<VersionKey, Job> definitions(List<VersionKey> keys) {
        return store.transact(tx -> tx.definitions(keys));
    }

    private Set<LeaseKey> recorded(List<LeaseKey> leases) {
        return store.transact(tx -> tx.recorded(leases));
    }

    private Set<LeaseKey> endAll(List<RunEnd> ends) {
        return store.transact(tx -> tx.end(ends));
    }

    private List<Settle> unsettled(Set<Long> runs, int limit) {
        return store.transact(tx -> tx.takeUnsettled(runs, limit));
    }

    private Map<Long, Long> leasedTo(UUID session) {
        return store.transact(tx -> tx.leasedTo(session));
    }

    private static SessionLease known(UUID session, Transaction tx) {
        return new SessionLease(session, tx.epoch(), Instant.EPOCH, tx.timeline());
    }

    private boolean holds(UUID session) {
        return store.transact(tx -> tx.holdSession(known(session, tx)));
    }

    private Optional<Renewal> renew(UUID session, Duration lease) {
        return store.transact(tx -> tx.renew(known(session, tx), lease));
    }

    private List<SessionRow> lapsed() {
        return store.transact(tx -> tx.lapsedSessions());
    }

    private int forget(Instant endedBefore) {
        return store.transact(tx -> tx.forgetSessions(endedBefore));
    }

    private long epoch() {
        return store.transact(tx -> tx.epoch());
    }

    private long raise(long known) {
        return store.transact(tx -> tx.raiseEpoch(known));
    }

    private Instant past(int seconds) {
        return now().minusSeconds(seconds).truncatedTo(ChronoUnit.MICROS);
    }

    // Definitions.

    @Test
    void aDefinitionComesBackAsItWasGiven() {
        Job job = job("tide-tables")
                .description("Ebbe & Flut – «潮汐»")
                .every(Duration.ofSeconds(90))
                .once(Instant.parse("2027-05-14T06:00:00.123456Z"))
                .ifBusy(IfBusy.waiting(3))
                .ifFailed(IfFailed.attempts(3, Duration.ofSeconds(10)).growing(2, Duration.ofMinutes(5)))
                .ifMissed(IfMissed.runEach(4).within(Duration.ofSeconds(30)))
                .timeLimit(Duration.ofMillis(1500))
                .lane("night")
                .priority(9)
                .tag("b")
                .tag("a")
                .payload("{\"x\": \"ü\"}")
                .build();
        long id = define(job, now().plusSeconds(60));

        JobRow row = store.transact(tx -> tx.findJobs(List.of(job.key()))).get(job.key());
        assertThat(row.id()).isEqualTo(id);
        assertThat(definitions(List.of(row.versionKey()))).containsEntry(row.versionKey(), job);
        assertThat(store.history().job(job.key()).orElseThrow().job()).isEqualTo(job);
    }

    @Test
    void anUnchangedDefinitionWritesNothingAndAChangedOneGetsTheNextVersion() {
        Brume brume = Brume.on(store).instance("definer").build();
        Job job = job("tide-tables").build();

        assertThat(brume.define(job).kind()).isEqualTo(Defined.Kind.NEW);
        Instant defined = store.history().job(job.key()).orElseThrow().definedAt();
        assertThat(brume.define(job).kind()).isEqualTo(Defined.Kind.UNCHANGED);
        assertThat(store.history().job(job.key()).orElseThrow().definedAt()).isEqualTo(defined);

        Defined changed = brume.define(job("tide-tables").priority(1).build());
        assertThat(changed.kind()).isEqualTo(Defined.Kind.CHANGED);
        assertThat(changed.version()).isEqualTo(2);
        assertThat(store.history().jobs()).hasSize(1);
    }

    @Test
    void aVersionComesBackWithItsCalendarsItsCountAndItsPlaceInAChain() {
        Brume brume = Brume.on(store).instance("definer").build();
        DayCalendar feasts = DayCalendar.of(
                "feasts",
                Set.of(DayOfWeek.SUNDAY),
                List.of(LocalDate.parse("2026-12-24")),
                List.of(LocalDate.parse("2026-12-27")));
        CalendarKey key = new CalendarKey("harbour", "feasts");
        Job job = Job.named("harbour/dues")
                .schedule(CronSchedule.parse("0 9 * * *", ZoneId.of("Atlantic/Azores"))
                        .with(Terms.NONE
                                .excluding(DayCalendar.missing("feasts"))
                                .ifDayOff(IfDayOff.NEXT)
                                .atMost(40)))
                .afterFinish(Duration.ofMinutes(10))
                .spread(Duration.ofMinutes(5))
                .program("true")
                .build();
        brume.define(DefinitionSet.of("test", List.of(job)).withCalendars(Map.of(key, feasts)));

        JobView view = store.history().job(job.key()).orElseThrow();
        assertThat(view.job()).isEqualTo(job.withCalendars(Map.of("feasts", feasts)));
        assertThat(view.job().calendars()).containsExactly(feasts);
        assertThat(view.job().timeline().count(now(), now().plus(Duration.ofDays(400))))
                .isEqualTo(40);
        assertThat(view.row().afterEnd().orElseThrow().due())
                .isPresent()
                .isEqualTo(view.row().nextAt());
        assertThat(definitions(List.of(view.row().versionKey()))
                        .get(view.row().versionKey())
                        .calendars())
                .containsExactly(feasts);
        assertThat(brume.define(DefinitionSet.of("test", List.of(job)).withCalendars(Map.of(key, feasts))))
                .extracting(Defined::kind)
                .containsExactly(Defined.Kind.UNCHANGED);
    }

    @Test
    void calendarsHaveVersionsAndKnowTheirUsers() {
        Brume brume = Brume.on(store).instance("definer").build();
        CalendarKey key = new CalendarKey("harbour", "feasts");
        Job job = Job.named("harbour/dues")
                .schedule(CronSchedule.parse("0 9 * * *", ZoneId.of("Atlantic/Azores"))
                        .with(Terms.NONE.excluding(DayCalendar.missing("feasts"))))
                .program("true")
                .build();
        DayCalendar first = DayCalendar.ofDates("feasts", List.of(LocalDate.parse("2026-12-24")));
        DayCalendar second = DayCalendar.ofDates("feasts", List.of(LocalDate.parse("2026-12-26")));
        brume.define(DefinitionSet.of("test", List.of(job, job("tide-tables").build()))
                .withCalendars(Map.of(key, first)));

        brume.define(DefinitionSet.of("other", List.of()).withCalendars(Map.of(key, second)));

        assertThat(store.<Map<CalendarKey, CalendarRow>>transact(tx -> tx.calendars(List.of(key))))
                .containsEntry(key, new CalendarRow(key, 2, second, "other"));
        assertThat(store.history().calendars()).singleElement().satisfies(view -> {
            assertThat(view.row().days()).isEqualTo(second);
            assertThat(view.jobs()).isEqualTo(1);
        });
        JobView view = store.history().job(job.key()).orElseThrow();
        assertThat(view.row().version()).isEqualTo(2);
        assertThat(view.job().calendars()).containsExactly(second);
        VersionKey before = new VersionKey(view.row().id(), 1);
        assertThat(definitions(List.of(before)).get(before).calendars()).containsExactly(first);
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
                tx.advance(List.of(new JobAdvance(
                        id,
                        row.cursor(),
                        row.nextAt(),
                        row.used(),
                        row.waiting(),
                        Optional.empty(),
                        Optional.of(state))));
                return null;
            });
            assertThat(lockOne(id).afterEnd()).contains(state);
        }
    }

    private JobRow lockOne(long id) {
        return store.<Map<Long, JobRow>>transact(tx -> tx.lockJobsById(List.of(id)))
                .get(id);
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
        long first = store.history().job(job.key()).orElseThrow().row().id();

        assertThat(brume.drop(job.key())).isTrue();
        assertThat(brume.drop(job.key())).isFalse();
        assertThat(store.history().jobs()).isEmpty();
        brume.define(job);
        assertThat(store.history().job(job.key()).orElseThrow().row().id()).isNotEqualTo(first);
    }

    @Test
    void aNameCannotBeTakenTwice() {
        define(job("tide-tables").build(), now());

        assertThatThrownBy(() -> define(job("tide-tables").build(), now()))
                .isInstanceOfSatisfying(
                        StoreException.class, e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.CONFLICT));
    }

    // Planning.

    @Test
    void dueJobsAreFoundEarliestFirstAndOthersAreNot() {
        long late = define(job("late").build(), past(30));
        long later = define(job("later").build(), past(10));
        define(job("future").build(), now().plusSeconds(600));

        assertThat(due(Optional.empty(), 10)).extracting(JobRow::id).containsExactlyInAnyOrder(late, later);
        assertThat(due(Optional.empty(), 1)).extracting(JobRow::id).containsExactly(late);
        assertThat(due(Optional.of(past(20)), 10)).extracting(JobRow::id).containsExactly(later);
    }

    @Test
    void whatPlanningChangesOnAJobIsKeptToTheMicrosecond() {
        long id = define(job("tide-tables").build(), past(10));
        Instant cursor = Instant.parse("2026-11-23T10:00:00.123456Z");
        Instant next = Instant.parse("2026-11-23T10:05:00.000001Z");
        JobAdvance.LastEnd end = new JobAdvance.LastEnd(77, Outcome.FAILED, cursor);
        store.transact(tx -> {
            tx.lockJobsById(List.of(id));
            tx.advance(
                    List.of(new JobAdvance(id, cursor, Optional.of(next), 1, 2, Optional.of(end), Optional.empty())));
            return null;
        });

        JobRow row = store.transact(tx -> tx.lockJobsById(List.of(id))).get(id);
        assertThat(row.cursor()).isEqualTo(cursor);
        assertThat(row.nextAt()).contains(next);
        assertThat(row.used()).isEqualTo(1);
        assertThat(row.waiting()).isEqualTo(2);
        assertThat(store.history().jobs().get(0).lastEnd()).contains(end);
    }

    @Test
    void anOccurrenceCannotBeOwedTwice() {
        long id = define(job("tide-tables").build(), past(10));
        Instant planned = past(10);
        add(run(id, planned, RunState.PLANNED, Optional.empty(), 5));

        assertThatThrownBy(() -> add(run(id, planned, RunState.PLANNED, Optional.empty(), 5)))
                .isInstanceOf(StoreException.class);
    }

    @Test
    void aStepThatThrowsLeavesNothingBehind() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = run(id, past(10), RunState.PLANNED, Optional.empty(), 5);

        assertThatThrownBy(() -> store.transact(tx -> {
                    tx.addRuns(List.of(run));
                    throw new IllegalArgumentException("changed my mind");
                }))
                .hasMessage("changed my mind");
        assertThat(store.history().run(run.id())).isEmpty();
    }

    @Test
    void numbersRise() {
        Numbers first = store.transact(tx -> tx.take(3));
        Numbers second = store.transact(tx -> tx.take(2));

        assertThat(first.fences()).hasSize(3).isSorted();
        assertThat(second.fences().get(0)).isGreaterThan(first.fences().get(2));
        assertThat(second.ids().get(0)).isGreaterThan(first.ids().get(2));
    }

    // Claiming.

    @Test
    void runsAreClaimedByPriorityThenTimeAndGetRisingFences() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow early = add(run(id, past(30), RunState.PLANNED, Optional.empty(), 5));
        RunRow late = add(run(id, past(20), RunState.PLANNED, Optional.empty(), 5));
        RunRow urgent = add(run(id, past(10), RunState.PLANNED, Optional.empty(), 9));
        add(run(id, past(40), RunState.HELD, Optional.empty(), 9));
        add(run(id, now().plusSeconds(600), RunState.PLANNED, Optional.empty(), 9));

        assertThat(claim(session, 2, Set.of())).extracting(RunRow::id).containsExactly(urgent.id(), early.id());
        List<RunRow> rest = claim(session, 10, Set.of());
        assertThat(rest).extracting(RunRow::id).containsExactly(late.id());
        assertThat(rest.get(0).attempt()).isEqualTo(1);
        assertThat(rest.get(0).owed()).isEqualTo(late.owed());
        assertThat(claim(session, 10, Set.of())).isEmpty();
        assertThat(leasedTo(session.id())).containsOnlyKeys(urgent.id(), early.id(), late.id());
    }

    @Test
    void aRunIsLeftToThoseWhoKnowItsHandler() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow plain = run(id, past(10), RunState.PLANNED, Optional.empty(), 5);
        RunRow needing = add(new RunRow(
                plain.id(),
                plain.owed(),
                1,
                RunState.PLANNED,
                "main",
                5,
                Optional.of("tides"),
                plain.readyAt(),
                Optional.empty(),
                List.of(),
                0,
                Optional.empty(),
                List.of()));
        Store.Look look = new Store.Look(Set.of("main"), Set.of("other"), Optional.empty(), true);

        assertThat(claim(session, 10, Set.of())).isEmpty();
        assertThat(claim(session, 10, Set.of("other"))).isEmpty();
        assertThat(store.outlook(look).nextReady()).isEmpty();
        assertThat(claim(session, 10, Set.of("other", "tides")))
                .extracting(RunRow::id)
                .containsExactly(needing.id());
    }

    @Test
    void theOutlookTellsWhatIsDueWhatIsReadyAndWhatIsLeftOver() {
        Store.Look look = new Store.Look(Set.of("main"), Set.of(), Optional.empty(), true);
        assertThat(store.outlook(look).nextDue()).isEmpty();
        assertThat(store.outlook(look).unsettled()).isFalse();
        assertThat(store.outlook(look).lapsed()).isFalse();

        Instant due = now().plusSeconds(100).truncatedTo(ChronoUnit.MICROS);
        long id = define(job("tide-tables").build(), due);
        RunRow waiting = add(run(id, past(10), RunState.PLANNED, Optional.empty(), 5));
        SessionRow dead = session("quay-9", past(1));
        RunRow run = leased(id, past(20), dead);
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, null));

        assertThat(store.outlook(look).nextDue()).contains(due);
        assertThat(store.outlook(look).nextReady()).contains(waiting.readyAt());
        assertThat(store.outlook(look).unsettled()).isTrue();
        assertThat(store.outlook(look).lapsed()).isTrue();
        assertThat(store.outlook(new Store.Look(Set.of("night"), Set.of(), Optional.empty(), false))
                        .nextReady())
                .isEmpty();
    }

    // Ending.

    @Test
    void anEndMovesTheRunToTheLedgerWithAllThatIsKnownOfIt() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        Attempt last = ended(run, AttemptEnd.SUCCEEDED, null);

        assertThat(end(run.leaseKey(), last)).containsExactly(run.leaseKey());

        RunView view = store.history().run(run.id()).orElseThrow();
        assertThat(view.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(view.state()).isEmpty();
        assertThat(view.owed()).isEqualTo(run.owed());
        assertThat(view.attempts()).containsExactly(last);
        assertThat(view.result()).contains("done");
        assertThat(view.payload()).contains("{\"quay\":4}");
        assertThat(view.outputs().get(1).text()).isEqualTo("naïve 🌫 output\n");
        assertThat(recorded(List.of(run.leaseKey()))).containsExactly(run.leaseKey());
    }

    @Test
    void anEndUnderAnOldFenceOrAnotherSessionIsRefused() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(20), session);
        LeaseKey lease = run.leaseKey();
        Attempt last = ended(run, AttemptEnd.SUCCEEDED, null);

        assertThat(end(new LeaseKey(run.id(), lease.session(), lease.fence() - 1), last))
                .isEmpty();
        assertThat(end(new LeaseKey(run.id(), UUID.randomUUID(), lease.fence()), last))
                .isEmpty();
        assertThat(store.history().run(run.id()).orElseThrow().state()).contains(RunState.RUNNING);
        assertThat(end(lease, last)).containsExactly(lease);
        assertThat(end(lease, last)).isEmpty();
    }

    @Test
    void anOldAndANewLeaseOfOneRunInOneBatchAreToldApart() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow first = leased(id, past(20), session);
        Attempt lost = ended(first, AttemptEnd.LOST, "gone");
        release(first, RunState.PLANNED, past(5), lost);
        RunRow second = claim(session, 1, Set.of()).get(0);
        Attempt last = ended(second, AttemptEnd.SUCCEEDED, null);
        RunEnd stale = new RunEnd(
                first.leaseKey(), Outcome.SUCCEEDED, Optional.empty(), lost, Optional.of("stale"), Optional.empty());
        RunEnd fresh = new RunEnd(
                second.leaseKey(), Outcome.SUCCEEDED, Optional.empty(), last, Optional.of("fresh"), Optional.empty());

        assertThat(endAll(List.of(fresh, stale))).containsExactly(second.leaseKey());
        RunView view = store.history().run(first.id()).orElseThrow();
        assertThat(view.result()).contains("fresh");
        assertThat(view.attempts()).containsExactly(lost, last);
    }

    @Test
    void aReleasedRunKeepsItsAttemptsAndIsClaimedUnderAHigherFence() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(20), session);
        Attempt failed = ended(run, AttemptEnd.FAILED, "exit code 3");

        assertThat(release(run, RunState.BACKING_OFF, past(1), failed)).containsExactly(run.leaseKey());
        assertThat(release(run, RunState.BACKING_OFF, past(1), failed)).isEmpty();
        assertThat(recorded(List.of(run.leaseKey()))).containsExactly(run.leaseKey());
        RunRow again = claim(session, 1, Set.of()).get(0);
        assertThat(again.attempt()).isEqualTo(2);
        assertThat(again.attempts()).containsExactly(failed);
        assertThat(again.leaseKey().fence()).isGreaterThan(run.leaseKey().fence());
        assertThat(end(run.leaseKey(), failed)).isEmpty();
        assertThat(store.history().run(run.id()).orElseThrow().outputs().get(1).text())
                .isEqualTo("half done");
    }

    @Test
    void anEndIsSettledOnce() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, null));

        assertThat(unsettled(Set.of(run.id()), 10)).extracting(Settle::run).containsExactly(run.id());
        assertThat(unsettled(Set.of(), 10)).isEmpty();
    }

    @Test
    void heldRunsAreLetGoOldestFirst() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow newer = add(run(id, past(10), RunState.HELD, Optional.empty(), 5));
        RunRow older = add(run(id, past(20), RunState.HELD, Optional.empty(), 5));
        SessionRow session = liveSession("quay-1");

        store.transact(tx -> {
            tx.lockJobsById(List.of(id));
            List<HeldRun> held = tx.gates().waitingOf(List.of(id), 1);
            assertThat(held).extracting(HeldRun::run).containsExactly(older.id());
            tx.letGo(List.of(older.id()), past(1));
            return null;
        });
        assertThat(claim(session, 10, Set.of())).extracting(RunRow::id).containsExactly(older.id());
        assertThat(store.history().run(newer.id()).orElseThrow().state()).contains(RunState.HELD);
    }

    // Sessions.

    @Test
    void aLiveSessionIsRenewedAndALapsedOneNeverIs() {
        SessionRow live = liveSession("quay-1");
        SessionRow lapsed = session("quay-2", past(1));

        Instant renewed = store.transact(tx -> tx.renew(known(live.id(), tx), Duration.ofSeconds(15)))
                .orElseThrow()
                .at();
        assertThat(store.transact(tx -> tx.lockSession(live.id())).orElseThrow().leaseUntil())
                .isEqualTo(renewed.plusSeconds(15));
        assertThat(holds(live.id())).isTrue();
        assertThat(renew(lapsed.id(), Duration.ofSeconds(15))).isEmpty();
        assertThat(holds(lapsed.id())).isFalse();
        assertThat(renew(UUID.randomUUID(), Duration.ofSeconds(15))).isEmpty();
        assertThat(lapsed()).extracting(SessionRow::id).containsExactly(lapsed.id());
    }

    @Test
    void aSessionBeingTakenOverLeasesNothingMoreAndIsForgottenLongAfterItsEnd() {
        SessionRow session = liveSession("quay-1");
        store.transact(tx -> {
            tx.markSession(session.id(), SessionRow.State.LAPSED);
            return null;
        });
        assertThat(holds(session.id())).isFalse();
        assertThat(renew(session.id(), Duration.ofSeconds(15))).isEmpty();

        store.transact(tx -> {
            tx.markSession(session.id(), SessionRow.State.ENDED);
            return null;
        });
        assertThat(store.history().sessions(false)).isEmpty();
        assertThat(store.history().sessions(true).get(0).row().lanes()).containsExactly("main=4", "night=1");
        assertThat(forget(past(60))).isZero();
        assertThat(forget(now().plusSeconds(60))).isEqualTo(1);
    }

    @Test
    void theEpochRisesOnceForAllWhoNotice() {
        long before = store.transact(tx -> tx.epoch());

        assertThat(raise(before)).isEqualTo(before + 1);
        assertThat(raise(before)).isEqualTo(before + 1);
        assertThat(epoch()).isEqualTo(before + 1);
    }

    // Looking and sweeping.

    @Test
    void historyIsFilteredAndNewestFirst() {
        long tides = define(job("tides").build(), past(10));
        long ferries = define(job("ferries").build(), past(10));
        RunRow done = leased(tides, past(40), liveSession("quay-1"));
        end(done.leaseKey(), ended(done, AttemptEnd.SUCCEEDED, null));
        RunRow waiting = add(run(tides, past(30), RunState.PLANNED, Optional.empty(), 5));
        RunRow skipped = run(ferries, past(20), RunState.PLANNED, Optional.empty(), 5);
        Span span = new Span(ferries, 1, past(100), past(50), past(100), past(51), 17, "MISSED");
        store.transact(tx -> {
            tx.addLines(List.of(new LedgerLine(
                    skipped.id(),
                    skipped.owed(),
                    1,
                    "main",
                    past(20),
                    Outcome.SKIPPED,
                    Optional.of("BUSY"),
                    List.of(),
                    Optional.empty(),
                    Optional.empty())));
            tx.addSpans(List.of(span));
            return null;
        });
        RunFilter all = RunFilter.newest(10);

        assertThat(store.history().runs(all))
                .extracting(RunView::id)
                .containsExactly(skipped.id(), waiting.id(), done.id());
        assertThat(store.history().runs(all.of(new JobKey("harbour", "tides"))))
                .extracting(RunView::id)
                .containsExactly(waiting.id(), done.id());
        RunFilter onlySkipped = new RunFilter(
                Optional.empty(),
                Optional.of(Outcome.SKIPPED),
                Optional.empty(),
                Optional.of(past(25)),
                Optional.of(now()),
                10);
        assertThat(store.history().runs(onlySkipped))
                .extracting(RunView::reason)
                .containsExactly(Optional.of("BUSY"));
        assertThat(store.history().spans(all))
                .extracting(view -> view.span().count())
                .containsExactly(17L);
        assertThat(store.history().runs(RunFilter.newest(1))).hasSize(1);
        assertThat(store.history()
                        .job(new JobKey("harbour", "tides"))
                        .orElseThrow()
                        .row()
                        .key()
                        .name())
                .isEqualTo("tides");
        assertThat(store.history().jobs())
                .extracting(view -> view.job().schedules().get(0).zone())
                .containsOnly(ZoneId.of("Atlantic/Azores"));
    }

    @Test
    void placesThatWereCountedWrongAreFound() {
        long right = define(job("right").build(), past(10));
        long wrong = define(job("wrong").build(), past(10));
        add(run(wrong, past(10), RunState.PLANNED, Optional.empty(), 5));
        add(run(wrong, past(20), RunState.HELD, Optional.empty(), 5));

        List<Recount> found = store.transact(tx -> tx.recount(10));
        assertThat(found).hasSize(1);
        assertThat(found.get(0).row().id()).isEqualTo(wrong).isNotEqualTo(right);
        assertThat(found.get(0).used()).isEqualTo(1);
        assertThat(found.get(0).waiting()).isEqualTo(1);
    }

    // Gates.

    private static final GateKey CRANE = new GateKey(GateKey.Kind.KEY, "crane");
    private static final GateKey PILOTS = new GateKey(GateKey.Kind.LIMIT, "pilots");

    private void addGates() {
        store.transact(tx -> {
            tx.gates().add(Map.of(CRANE, 1, PILOTS, 2));
            return null;
        });
    }

    private RunRow inGates(long job, Instant planned, RunState state, int priority, GateKey... gates) {
        RunRow run = run(job, planned, state, Optional.empty(), priority);
        RunRow named = new RunRow(
                run.id(),
                run.owed(),
                run.version(),
                run.state(),
                run.lane(),
                run.priority(),
                run.handler(),
                run.readyAt(),
                run.lease(),
                run.attempts(),
                run.attempt(),
                run.payload(),
                List.of(gates));
        return add(named);
    }

    @Test
    void gatesAreAddedOnceResizedAndWritten() {
        addGates();
        store.transact(tx -> {
            tx.gates().resize(Map.of(PILOTS, 3));
            Map<GateKey, Gate> locked = tx.gates().lock(List.of(PILOTS, CRANE, new GateKey(GateKey.Kind.KEY, "ghost")));
            assertThat(locked).containsOnlyKeys(CRANE, PILOTS);
            tx.gates().write(List.of(locked.get(PILOTS).taking(2)));
            return null;
        });

        List<Gate> all = store.transact(tx -> tx.gates().all());
        assertThat(all).containsExactlyInAnyOrder(new Gate(CRANE, 1, 0), new Gate(PILOTS, 3, 2));
    }

    @Test
    void whoWaitsAtAGateIsReadByPriorityAndThenByTimeSoManyOfEachJob() {
        addGates();
        long first = define(job("a").build(), past(10));
        long second = define(job("b").build(), past(10));
        RunRow low = inGates(first, past(30), RunState.HELD, 1, PILOTS);
        inGates(first, past(20), RunState.HELD, 1, PILOTS);
        RunRow high = inGates(second, past(10), RunState.HELD, 8, CRANE, PILOTS);
        inGates(second, past(5), RunState.PLANNED, 9, PILOTS);
        store.transact(tx -> {
            List<RunRow> held = new ArrayList<>();
            tx.gates().waitingOf(List.of(first, second), 10).forEach(each -> held.add(find(each.run())));
            tx.gates().queue(held);
            return null;
        });

        List<HeldRun> waiting = store.transact(tx -> tx.gates().waitingAt(List.of(PILOTS), 1));
        assertThat(waiting).extracting(HeldRun::run).containsExactly(high.id(), low.id());
        assertThat(waiting.get(0).gates()).containsExactly(CRANE, PILOTS);
        List<HeldRun> ofFirst = store.transact(tx -> tx.gates().waitingOf(List.of(first), 5));
        assertThat(ofFirst).hasSize(2);

        store.transact(tx -> {
            tx.lockJobsById(List.of(second));
            tx.letGo(List.of(high.id()), now());
            tx.gates().unqueue(List.of(high.id()));
            return null;
        });
        List<HeldRun> left = store.transact(tx -> tx.gates().waitingAt(List.of(CRANE), 5));
        assertThat(left).isEmpty();
    }

    private RunRow find(long id) {
        RunView view = store.history().run(id).orElseThrow();
        return new RunRow(
                id,
                view.owed(),
                1,
                RunState.HELD,
                "main",
                view.owed().planned().isBefore(past(15)) ? 1 : 8,
                Optional.empty(),
                view.readyAt(),
                Optional.empty(),
                List.of(),
                0,
                Optional.empty(),
                view.owed().planned().isBefore(past(15)) ? List.of(PILOTS) : List.of(CRANE, PILOTS));
    }

    @Test
    void placesAreCountedFromLiveRunsAndFromEndsThatAreNotSettled() {
        addGates();
        long id = define(job("a").build(), past(10));
        SessionRow session = liveSession("quay-1");
        inGates(id, past(30), RunState.PLANNED, 5, PILOTS);
        inGates(id, past(20), RunState.HELD, 5, PILOTS);
        inGates(id, past(10), RunState.PLANNED, 9, PILOTS, CRANE);
        RunRow claimed = claim(session, 1, Set.of()).get(0);
        end(claimed.leaseKey(), ended(claimed, AttemptEnd.SUCCEEDED, null));

        Map<GateKey, Integer> counts = store.transact(tx -> tx.gates().count(List.of(PILOTS, CRANE)));
        assertThat(counts).containsEntry(PILOTS, 2).containsEntry(CRANE, 1);
        assertThat(unsettled(Set.of(claimed.id()), 10))
                .singleElement()
                .satisfies(settle -> assertThat(settle.gates()).containsExactlyInAnyOrder(PILOTS, CRANE));
        Map<GateKey, Integer> settled = store.transact(tx -> tx.gates().count(List.of(PILOTS, CRANE)));
        assertThat(settled).containsEntry(PILOTS, 1).doesNotContainKey(CRANE);
    }

    @Test
    void jobsWithRoomWhoseRunsWaitAllTheSameAreFound() {
        long id = define(job("a").ifBusy(IfBusy.waiting(3)).build(), past(10));
        JobRow row = lockOne(id);
        store.transact(tx -> {
            tx.advance(List.of(JobAdvance.of(row.counted(0, 1))));
            return null;
        });

        List<Long> found = store.transact(tx -> tx.jobsWithRoomAndWaiting(10));
        assertThat(found).containsExactly(id);
    }

    // One-offs.

    private boolean order(long job, String key, Instant at) {
        return store.transact(tx -> tx.oneOffs().add(new OneOff(job, key, at, Optional.of("{}"), "tester")));
    }

    @Test
    void aOneOffIsDueFromItsTimeOnUntilARunIsMadeOfIt() {
        long id = define(job("a").build(), past(10));
        Instant at = past(5);
        assertThat(order(id, "closure", at)).isTrue();
        assertThat(order(id, "closure", at)).isFalse();
        assertThat(order(id, "later", now().plusSeconds(600))).isTrue();

        List<OneOffRow> due = store.transact(tx -> tx.oneOffs().due(Optional.empty(), now(), 10));
        assertThat(due)
                .extracting(OneOffRow::oneOff)
                .containsExactly(new OneOff(id, "closure", at, Optional.of("{}"), "tester"));
        List<OneOffRow> beyondHint = store.transact(tx -> tx.oneOffs().due(Optional.of(at.plusMillis(1)), now(), 10));
        assertThat(beyondHint).isEmpty();
        Store.Look look = new Store.Look(Set.of("main"), Set.of(), Optional.empty(), true);
        assertThat(store.outlook(look).nextOneOff()).contains(at);

        long row = due.get(0).id();
        store.transact(tx -> {
            assertThat(tx.oneOffs().lock(List.of(row))).hasSize(1);
            tx.oneOffs().taken(Map.of(row, 77L));
            return null;
        });
        List<OneOffRow> again = store.transact(tx -> tx.oneOffs().lock(List.of(row)));
        assertThat(again).isEmpty();
        assertThat(order(id, "closure", at)).as("its key stays taken").isFalse();
    }

    // Revisions, histories, orders.

    @Test
    void aRevisionIsNotedForEachSource() {
        store.transact(tx -> {
            assertThat(tx.revision("harbour.yaml")).isEmpty();
            tx.revision("harbour.yaml", 7, "tester");
            tx.revision("harbour.yaml", 9, "tester");
            tx.revision("other.yaml", 1, "tester");
            return null;
        });
        OptionalLong noted = store.transact(tx -> tx.revision("harbour.yaml"));
        assertThat(noted).hasValue(9);
    }

    @Test
    void aSessionOfAnotherEpochOrHistoryIsNeitherHeldNorRenewed() {
        SessionRow session = liveSession("quay-1");
        SessionLease known = store.transact(tx -> known(session.id(), tx));
        SessionLease otherEpoch =
                new SessionLease(session.id(), known.epoch() + 1, known.renewedAt(), known.timeline());
        SessionLease otherHistory = new SessionLease(session.id(), known.epoch(), known.renewedAt(), "elsewhere");
        SessionLease newer = new SessionLease(session.id(), known.epoch(), now().plusSeconds(60), known.timeline());

        for (SessionLease other : List.of(otherEpoch, otherHistory, newer)) {
            boolean held = store.transact(tx -> tx.holdSession(other));
            assertThat(held).as("%s", other).isFalse();
        }
        for (SessionLease other : List.of(otherEpoch, otherHistory)) {
            Optional<Renewal> renewed = store.transact(tx -> tx.renew(other, Duration.ofSeconds(15)));
            assertThat(renewed).as("%s", other).isEmpty();
        }
        boolean held = store.transact(tx -> tx.holdSession(known));
        assertThat(held).isTrue();
    }

    @Test
    void aHistoryIsNoted() {
        String noted = store.transact(tx -> {
            tx.noteTimeline("00000007");
            return tx.notedTimeline();
        });
        assertThat(noted).isEqualTo("00000007");
    }

    @Test
    void aLeaseIsHeldUntilItsEndAndThenOnRecord() {
        long id = define(job("a").build(), past(10));
        RunRow run = leased(id, past(10), liveSession("quay-1"));
        LeaseKey old =
                new LeaseKey(run.id(), run.leaseKey().session(), run.leaseKey().fence() - 1);
        store.transact(tx -> {
            assertThat(tx.holdLease(run.leaseKey())).isTrue();
            assertThat(tx.holdLease(old)).isFalse();
            assertThat(tx.ended(run.leaseKey())).isFalse();
            return null;
        });
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, null));
        store.transact(tx -> {
            assertThat(tx.holdLease(run.leaseKey())).isFalse();
            assertThat(tx.ended(run.leaseKey())).isTrue();
            assertThat(tx.ended(old)).isFalse();
            return null;
        });
    }

    @Test
    void openSessionsAreFoundByTheirInstance() {
        SessionRow open = liveSession("quay-1");
        SessionRow draining = liveSession("quay-1");
        liveSession("quay-2");
        store.transact(tx -> {
            tx.markSession(draining.id(), SessionRow.State.DRAINING);
            return null;
        });

        List<SessionRow> found = store.transact(tx -> tx.lockSessionsOf("quay-1"));
        assertThat(found).extracting(SessionRow::id).containsExactly(open.id());
    }
}
