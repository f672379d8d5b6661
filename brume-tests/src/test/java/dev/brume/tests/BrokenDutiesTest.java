package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.Gate;
import dev.brume.history.NewestRuns;
import dev.brume.history.NoticeRow;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.simulator.Faults;
import dev.brume.simulator.Sabotage;
import dev.brume.simulator.Scenario;
import dev.brume.simulator.Shrinker;
import dev.brume.simulator.Simulator;
import dev.brume.spi.Awaited;
import dev.brume.spi.Ended;
import dev.brume.spi.FeedSteps;
import dev.brume.spi.GateSteps;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.Notable;
import dev.brume.spi.NoticeSteps;
import dev.brume.spi.RunEnd;
import dev.brume.spi.SessionSteps;
import dev.brume.spi.Transaction;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.LongStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** A checker that never bites proves nothing: for each promise something is broken on purpose, and must be noticed. */
@Tag("long")
class BrokenDutiesTest {
    private static final Duration LENGTH = Duration.ofMinutes(10);

    /** Takes the place of a step. */
    private interface Instead {
        Object call(Transaction tx, Object[] args, Step original) throws Throwable;
    }

    /** The step as it should be. */
    private interface Step {
        Object call(Object... args) throws Throwable;
    }

    private static Transaction replacing(Transaction tx, String step, Instead instead) {
        return replacing(Transaction.class, tx, tx, step, instead);
    }

    /** Breaks one of the steps that a transaction has apart, such as those on its sessions. */
    private static <T> Transaction replacing(Transaction tx, String part, Class<T> type, String step, Instead instead) {
        return replacing(
                tx, part, (real, args, original) -> replacing(type, type.cast(original.call()), real, step, instead));
    }

    private static <T> T replacing(Class<T> type, T steps, Transaction tx, String step, Instead instead) {
        return type.cast(Proxy.newProxyInstance(type.getClassLoader(), new Class<?>[] {type}, (proxy, method, args) -> {
            Step original = values -> {
                try {
                    return method.invoke(steps, values);
                } catch (InvocationTargetException e) {
                    throw e.getCause();
                }
            };
            return method.getName().equals(step)
                    ? instead.call(tx, args, original)
                    : original.call(args == null ? new Object[0] : args);
        }));
    }

    private static Sabotage brokenDuties(UnaryOperator<Transaction> how) {
        return new Sabotage() {
            @Override
            public Transaction ofTheDuties(Transaction tx) {
                return how.apply(tx);
            }
        };
    }

    private static Sabotage brokenStore(UnaryOperator<Transaction> how) {
        return new Sabotage() {
            @Override
            public Transaction ofTheStore(Transaction tx) {
                return how.apply(tx);
            }
        };
    }

    /** Some seed must break the promise, and all that break anything must break this one or one that follows from it. */
    private static void bites(String invariant, Sabotage sabotage) {
        for (long seed = 1; seed <= 40; seed++) {
            try {
                new Simulator(Scenario.of(seed, 3, LENGTH, Faults.many()), sabotage).run();
            } catch (AssertionError broken) {
                if (broken.getMessage().contains(invariant + " is broken")) {
                    return;
                }
            }
        }
        throw new AssertionError("nobody noticed that " + invariant + " was broken");
    }

    @SuppressWarnings("unchecked")
    private static <T> List<T> list(Object argument) {
        return new ArrayList<>((Collection<T>) argument);
    }

    @Test
    void i10IsNoticedWhenWhatHappenedIsForgottenBeforeAnybodyDecidesAboutIt() {
        bites(
                "I10",
                brokenDuties(tx ->
                        replacing(tx, "notices", NoticeSteps.class, "notables", (real, args, original) -> Map.of())));
    }

    @Test
    @SuppressWarnings("unchecked")
    void i10IsNoticedWhenASuccessEndsNoTrouble() {
        bites(
                "I10",
                brokenDuties(tx -> replacing(tx, "notices", NoticeSteps.class, "notables", (real, args, original) -> {
                    Map<Long, List<Notable>> seen = new HashMap<>((Map<Long, List<Notable>>) original.call(args));
                    seen.replaceAll((id, notables) -> notables.stream()
                            .filter(notable -> notable.kind() != Notable.Kind.SUCCEEDED)
                            .toList());
                    return seen;
                })));
    }

    @Test
    void i10IsNoticedWhenADeliveredNoticeIsLeasedAgain() {
        bites(
                "I10",
                brokenStore(tx -> replacing(tx, "notices", NoticeSteps.class, "lease", (real, args, original) -> {
                    List<NoticeRow> leased = list(original.call(args));
                    return leased.isEmpty()
                            ? leased
                            : leased.stream()
                                    .flatMap(row -> Stream.of(
                                            row,
                                            real.notices()
                                                    .lockNotice(row.notice().id())
                                                    .map(found -> {
                                                        real.notices()
                                                                .write(found.delivered(real.now(), Optional.empty()));
                                                        return found;
                                                    })
                                                    .orElseThrow()))
                                    .toList();
                })));
    }

    @Test
    void i1IsNoticedWhenAnEndedRunIsLeftInTheLiveTable() {
        bites(
                "I1",
                brokenStore(tx -> replacing(tx, "end", (real, args, original) -> {
                    List<RunEnd> ends = list(args[0]);
                    Map<UUID, List<RunRow>> rows = new HashMap<>();
                    ends.forEach(end -> rows.computeIfAbsent(
                            end.lease().session(), session -> real.lockRunsOf(session, Integer.MAX_VALUE)));
                    Object accepted = original.call(args);
                    List<RunRow> again = rows.values().stream()
                            .flatMap(List::stream)
                            .filter(row ->
                                    ends.stream().anyMatch(end -> end.lease().equals(row.leaseKey())))
                            .map(row -> row.moved(
                                    RunState.PLANNED, row.readyAt(), Optional.empty(), row.attempts(), row.attempt()))
                            .toList();
                    real.addRuns(again);
                    return accepted;
                })));
    }

    @Test
    void i2IsNoticedWhenFencesDoNotRise() {
        bites(
                "I2",
                brokenStore(tx -> replacing(tx, "claim", (real, args, original) -> {
                    List<RunRow> claimed = list(original.call(args));
                    return claimed.stream()
                            .map(run -> run.moved(
                                    RunState.RUNNING,
                                    run.readyAt(),
                                    run.lease().map(lease -> new RunRow.Lease(lease.session(), 1, lease.since())),
                                    run.attempts(),
                                    run.attempt()))
                            .toList();
                })));
    }

    @Test
    void i2IsNoticedWhenLivingSessionsAreTakenForDead() {
        UnaryOperator<Transaction> all = tx -> replacing(
                tx,
                "sessions",
                SessionSteps.class,
                "lapsed",
                (real, args, original) -> Stream.of("instance-0", "instance-1", "instance-2")
                        .flatMap(name -> real.sessions().lockOpenOf(name).stream())
                        .toList());
        bites(
                "I2",
                brokenDuties(tx -> replacing(
                        all.apply(tx),
                        "sessions",
                        SessionSteps.class,
                        "lock",
                        (real, args, original) ->
                                ((Optional<?>) original.call(args)).map(row -> longLapsed((SessionRow) row)))));
    }

    /** Says of each job that more runs are marked than it has. */
    private static Awaited everythingMarked(List<Long> jobs) {
        Map<Long, Long> marked = new HashMap<>();
        jobs.forEach(job -> LongStream.range(0, 100).forEach(i -> marked.put(-100 * job - i, job)));
        return new Awaited(marked, Set.of());
    }

    private static SessionRow longLapsed(SessionRow row) {
        return new SessionRow(
                row.id(),
                row.instance(),
                row.host(),
                row.pid(),
                row.lanes(),
                row.labels(),
                row.software(),
                row.tzdata(),
                row.epoch(),
                row.state(),
                row.openedAt(),
                row.renewedAt(),
                row.openedAt(),
                row.endedAt(),
                row.handlers(),
                row.ahead(),
                row.vitals());
    }

    @Test
    void i3IsNoticedWhenEndsAreAcceptedUnderAnyFence() {
        bites(
                "I3",
                brokenStore(tx -> replacing(tx, "end", (real, args, original) -> {
                    original.call(args);
                    List<RunEnd> ends = list(args[0]);
                    return new Ended(ends.stream().map(RunEnd::lease).collect(Collectors.toSet()), Set.of());
                })));
    }

    @Test
    void itIsNoticedWhenNothingIsFedAnyMoreAndWhoFollowsIsNotTold() {
        Instant soon = Instant.parse("2026-03-28T00:02:00Z");
        bites(
                "FEED",
                brokenDuties(tx -> replacing(
                        tx,
                        "feed",
                        FeedSteps.class,
                        "listen",
                        (real, args, original) -> real.now().isBefore(soon) ? original.call(args) : null)));
    }

    @Test
    void itIsNoticedWhenNotAllThatWasCommittedGetsItsNumber() {
        bites(
                "FEED",
                brokenDuties(tx -> replacing(
                        tx,
                        "feed",
                        FeedSteps.class,
                        "number",
                        (real, args, original) -> original.call(new Object[] {1}))));
    }

    @Test
    void itIsNoticedWhenThePastIsToldOtherwiseThanItWas() {
        bites(
                "PAST",
                brokenStore(tx -> replacing(
                        tx,
                        "letGo",
                        (real, args, original) ->
                                original.call(new Object[] {args[0], ((Instant) args[1]).minusSeconds(5)}))));
    }

    @Test
    void i4IsNoticedWhenWhatWasMissedIsNotWrittenDown() {
        bites("I4", brokenDuties(tx -> replacing(tx, "addSpans", (real, args, original) -> null)));
    }

    @Test
    void i4IsNoticedWhenSkippedOccurrencesGetNoLine() {
        bites(
                "I4",
                brokenDuties(tx -> replacing(tx, "addLines", (real, args, original) -> {
                    List<LedgerLine> lines = list(args[0]);
                    return lines.size() > 1 ? original.call(lines.subList(1, lines.size())) : null;
                })));
    }

    @Test
    void i5IsNoticedWhenCrowdedJobsForgetThatTheyAre() {
        bites(
                "I5",
                brokenDuties(tx -> replacing(tx, "advance", (real, args, original) -> {
                    List<JobAdvance> changes = list(args[0]);
                    return original.call(changes.stream()
                            .map(change -> change.with(new NewestRuns(
                                    change.runs().newest(), change.runs().ended(), /* crowded= */ false)))
                            .toList());
                })));
    }

    @Test
    void itIsNoticedWhenWhoeverComesToWaitAwaitsNoEnd() {
        bites(
                "ROOM",
                brokenDuties(tx -> replacing(tx, "await", (real, args, original) -> everythingMarked(list(args[0])))));
    }

    @Test
    void itIsNoticedWhenEndsDoNotLookWhoAwaitsThem() {
        bites(
                "ROOM",
                brokenStore(tx -> replacing(tx, "end", (real, args, original) -> {
                    Ended ended = (Ended) original.call(args);
                    List<RunEnd> ends = list(args[0]);
                    Set<Long> certain = ends.stream()
                            .filter(RunEnd::settles)
                            .map(end -> end.lease().run())
                            .collect(Collectors.toSet());
                    real.takeUnsettled(ended.unsettled().stream()
                            .filter(run -> !certain.contains(run))
                            .toList());
                    return new Ended(ended.accepted(), certain);
                })));
    }

    @Test
    void itIsNoticedWhenNobodyLooksAgainAtWhatMetAnEnd() {
        bites("ROOM", brokenDuties(tx -> replacing(tx, "lookAgain", (real, args, original) -> null)));
    }

    @Test
    void i5IsNoticedWhenSharedGatesAreNotWritten() {
        bites(
                "I5",
                brokenDuties(tx -> replacing(tx, "gates", GateSteps.class, "write", (real, args, original) -> {
                    List<Gate> none = List.of();
                    return original.call(none);
                })));
    }

    @Test
    void i6IsNoticedWhenALedgerLineIsWrittenOver() {
        bites(
                "I6",
                brokenStore(tx -> replacing(tx, "addLines", (real, args, original) -> {
                    List<LedgerLine> lines = list(args[0]);
                    original.call(args);
                    return original.call(lines.stream()
                            .map(line -> new LedgerLine(
                                    line.run(),
                                    line.owed(),
                                    line.version(),
                                    line.lane(),
                                    line.readyAt(),
                                    Outcome.SUCCEEDED,
                                    line.reason(),
                                    line.attempts(),
                                    line.payload(),
                                    line.result()))
                            .toList());
                })));
    }

    @Test
    void i7IsNoticedWhenAChangeIsNotLogged() {
        bites("I7", brokenDuties(tx -> replacing(tx, "addChanges", (real, args, original) -> null)));
    }

    @Test
    void i8IsNoticedWhenNobodyReconciles() {
        bites("I8", brokenDuties(tx -> replacing(tx, "leasedTo", (real, args, original) -> Map.of())));
    }

    @Test
    void whatIsFoundIsShrunkAndCanBeReplayed() {
        Sabotage sabotage = brokenDuties(tx -> replacing(tx, "leasedTo", (real, args, original) -> Map.of()));
        Scenario scenario = null;
        for (long seed = 1; scenario == null; seed++) {
            Scenario candidate = Scenario.of(seed, 3, LENGTH, Faults.many());
            try {
                new Simulator(candidate, sabotage).run();
            } catch (AssertionError broken) {
                scenario = broken.getMessage().contains("I8 is broken") ? candidate : null;
            }
        }
        Scenario found = scenario;

        assertThatThrownBy(() -> new Shrinker(sabotage).run(found))
                .hasMessageContaining("I8 is broken")
                .satisfies(thrown -> {
                    String replay =
                            thrown.getMessage().replaceAll("(?s).*brume.simulator.replay=([0-9:.a-z]+).*", "$1");
                    Scenario smallest = Scenario.parse(replay, Faults.many());
                    assertThat(smallest.only().orElseThrow())
                            .as("faults that are needed")
                            .hasSizeLessThan(60);
                    assertThat(smallest.length()).isLessThanOrEqualTo(found.length());
                    assertThatThrownBy(() -> new Simulator(smallest, sabotage).run())
                            .hasMessageContaining("I8 is broken");
                    new Simulator(smallest).run();
                });
    }
}
