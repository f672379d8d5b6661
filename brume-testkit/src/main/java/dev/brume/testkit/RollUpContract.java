package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Timeframe;
import dev.brume.spi.RollUpSteps;
import dev.brume.spi.RollUpSteps.Day;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.function.Function;
import org.junit.jupiter.api.Test;

/** What a store keeps of the ledger in sums by job and hour. */
abstract class RollUpContract extends PastContract {
    private <T> T rollUp(Function<RollUpSteps, T> step) {
        return store.transact(tx -> step.apply(tx.rollUp()));
    }

    /** Sums up as many lines; returns how many. */
    private int sumUp(int most) {
        return rollUp(steps -> {
            Reach reach = steps.lockReach();
            List<RollUpSteps.Line> lines = steps.lines(reach.high(), reach.open(), most);
            Map<Day, SortedMap<Instant, LineSums>> days = new HashMap<>();
            for (RollUpSteps.Line line : lines) {
                Instant planned = line.line().planned();
                Day day = new Day(line.job(), planned.truncatedTo(ChronoUnit.DAYS));
                days.computeIfAbsent(
                                day,
                                key -> new TreeMap<>(
                                        steps.read(List.of(key)).getOrDefault(key, Collections.emptySortedMap())))
                        .merge(LineSums.hourOf(planned), LineSums.of(List.of(line.line())), LineSums::plus);
            }
            steps.write(days);
            steps.reach(reach.past(
                    IdRanges.of(lines.stream().map(line -> line.line().run()).toList())));
            return lines.size();
        });
    }

    private RunRow ended(long job, Instant planned, SessionRow session, AttemptEnd end) {
        RunRow run = leased(job, planned, session);
        end(run.leaseKey(), ended(run, end, Optional.empty()));
        return run;
    }

    private void ordered(long job, Instant planned, String slot, Origin origin) {
        RunRow waits = run(job, planned, RunState.WAITING, Optional.empty(), 5);
        RunRow.Owed owed = new RunRow.Owed(
                job, planned, slot, origin, NOMINAL, "UTC", Optional.empty(), Optional.empty(), Optional.empty());
        RunRow added = add(new RunRow(
                waits.id(),
                owed,
                1,
                waits.state(),
                waits.lane(),
                5,
                waits.needs(),
                waits.readyAt(),
                Optional.empty(),
                List.of(),
                1,
                Optional.empty(),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty()));
        store.transact(tx -> tx.orders().endWaiting(added.id(), Outcome.SKIPPED, Reason.BUSY));
    }

    private Map<String, JobAccount> accounts(Timeframe frame) {
        Map<String, JobAccount> accounts = new TreeMap<>();
        store.history().accounts(frame, account -> accounts.put(account.name().name(), account));
        return accounts;
    }

    private void assertTheSame(Timeframe frame) {
        Map<String, JobAccount> inLines = accounts(frame);
        Map<String, JobAccount> inSums = accounts(frame.inSums());
        assertThat(inSums.keySet()).isEqualTo(inLines.keySet());
        inLines.forEach((name, account) -> assertThat(inSums.get(name).inAll().agreesWith(account.inAll()))
                .as(name + ": " + inSums.get(name).inAll() + ", in lines " + account.inAll())
                .isTrue());
    }

    @Test
    void accountsAreReadOfJustThoseJobsThatAreAskedFor() {
        fill();
        long wicks = define(job("wicks").build(), past(1));
        Timeframe whole = Timeframe.between(begin().minusSeconds(5000), begin().plusSeconds(20_000));
        Map<String, JobAccount> all = accounts(whole);
        assertThat(all).containsOnlyKeys("dues", "lamps", "wicks");
        Timeframe two = whole.of(
                List.of(job("lamps").build().name(), job("wicks").build().name(), JobName.parse("none")));
        assertThat(accounts(two)).containsOnlyKeys("lamps", "wicks");
        assertThat(accounts(two).get("lamps").lines())
                .isEqualTo(all.get("lamps").lines());
        assertThat(accounts(whole.of(List.of()))).containsOnlyKeys("dues", "lamps", "wicks");

        store.transact(tx -> {
            tx.drop(wicks);
            return null;
        });
        assertThat(accounts(two)).containsOnlyKeys("lamps", "wicks");
        assertThat(accounts(whole.of(job("wicks").build().name()))).containsOnlyKeys("wicks");
    }

    private static int lines(Map<String, JobAccount> accounts) {
        return accounts.values().stream()
                .mapToInt(account -> account.lines().size())
                .sum();
    }

    /** Two jobs in three hours, one of them with a line for each instance. */
    private Instant begin() {
        return LineSums.hourOf(now()).minus(Duration.ofHours(5));
    }

    private void fill() {
        long lamps = define(job("lamps").build(), past(1));
        long dues = define(job("dues").build(), past(1));
        SessionRow session = liveSession("quay-1");
        for (int i = 0; i < 30; i++) {
            Instant planned = begin().plusSeconds(60).plus(Duration.ofMinutes(6L * i));
            ended(lamps, planned, session, i % 7 == 3 ? AttemptEnd.FAILED : AttemptEnd.SUCCEEDED);
            if (i % 5 == 0) {
                ordered(lamps, planned.plusSeconds(1), "+" + i, Origin.BY_HAND);
                ordered(dues, planned, "", Origin.SCHEDULE);
                ended(dues, planned.plusSeconds(2), session, AttemptEnd.TIMED_OUT);
            }
        }
    }

    @Test
    void theLedgerInSumsSaysWhatItSaysInLines() {
        fill();
        Instant begin = begin();
        Timeframe whole = Timeframe.between(begin.minusSeconds(5000), begin.plusSeconds(20_000));
        Timeframe part = Timeframe.between(begin.plusSeconds(500), begin.plusSeconds(9500));
        Timeframe split = whole.splitAt(begin.plusSeconds(4000));
        int added = 0;
        int batch = 1;
        while (batch > 0) {
            for (Timeframe frame :
                    List.of(whole, part, split, whole.of(job("dues").build().name()))) {
                assertTheSame(frame);
            }
            batch = sumUp(17);
            added += batch;
        }
        assertThat(added).isEqualTo(48);
        Map<String, JobAccount> lines = accounts(whole);
        Map<String, JobAccount> sums = accounts(whole.inSums());
        assertThat(lines(lines)).isEqualTo(48);
        assertThat(lines(sums)).as("those that are not plain").isEqualTo(12);
        assertThat(sums.get("lamps").sums()).hasSize(3);
        assertThat(accounts(split.inSums()).get("lamps").sums())
                .as("but for the hour it is split in")
                .hasSize(2);
        assertThat(accounts(part.inSums()).get("lamps").sums())
                .as("whole hours")
                .hasSize(1);

        long late = lines.get("lamps").id();
        ended(late, begin.plusSeconds(61), liveSession("quay-2"), AttemptEnd.SUCCEEDED);
        assertTheSame(whole);
        int more = sumUp(100);
        assertThat(more).as("once each").isEqualTo(1);
        assertTheSame(whole);
    }

    @Test
    void linesForEachInstanceAreReadOneByOne() {
        fill();
        Timeframe frame = Timeframe.between(begin(), begin().plusSeconds(20_000));
        JobAccount lamps = accounts(frame).get("lamps");
        RunRow each = run(lamps.id(), begin().plusSeconds(60), RunState.WAITING, Optional.empty(), 5);
        SessionRow session = liveSession("quay-3");
        RunRow slot = add(new RunRow(
                each.id(),
                new RunRow.Owed(
                        lamps.id(),
                        begin().plusSeconds(60),
                        "@" + session.id(),
                        Origin.SCHEDULE,
                        NOMINAL,
                        "UTC",
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty()),
                1,
                RunState.RUNNING,
                each.lane(),
                5,
                each.needs(),
                each.readyAt(),
                Optional.of(new RunRow.Lease(session.id(), 7, now())),
                List.of(),
                1,
                Optional.empty(),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty()));
        end(slot.leaseKey(), ended(slot, AttemptEnd.SUCCEEDED, Optional.empty()));
        sumUp(100);

        Map<String, JobAccount> sums = accounts(frame.inSums());
        assertThat(sums.get("dues").sums()).isNotEmpty();
        assertTheSame(frame);
        assertThat(new ArrayList<>(sums.get("lamps").lines()))
                .extracting(JobAccount.Line::run)
                .contains(slot.id());
    }

    @Test
    void whatIsRemovedIsForgottenInSumsTooAndAllCanBeMadeAnew() {
        fill();
        sumUp(100);
        Instant cut = begin().plusSeconds(4000);
        Timeframe frame = Timeframe.between(begin(), begin().plusSeconds(20_000));
        store.transact(tx -> tx.retention().remove(Optional.empty(), cut, 1000));
        assertTheSame(frame);
        assertThat(accounts(frame.inSums()).get("lamps").sums())
                .as("hours of which all is kept")
                .hasSize(1);

        rollUp(steps -> {
            steps.clear();
            steps.reach(Reach.NONE);
            return null;
        });
        assertThat(accounts(frame.inSums()).get("lamps").sums()).isEmpty();
        assertTheSame(frame);
        sumUp(100);
        assertThat(accounts(frame.inSums()).get("lamps").sums()).hasSize(1);
        assertTheSame(frame);

        long lamps = accounts(frame).get("lamps").id();
        Instant hour = cut.plusSeconds(3599).truncatedTo(ChronoUnit.HOURS);
        Day first = new Day(lamps, hour.truncatedTo(ChronoUnit.DAYS));
        Map<Day, SortedMap<Instant, LineSums>> kept = rollUp(steps -> steps.read(List.of(first)));
        assertThat(kept).isNotEmpty();
        Instant nothing = now().plus(Duration.ofDays(2));
        store.transact(tx -> {
            tx.retention().remove(Optional.empty(), nothing, 1000);
            tx.retention().close(Optional.empty(), nothing);
            return null;
        });
        Map<Day, SortedMap<Instant, LineSums>> left = rollUp(steps -> steps.read(List.of(first)));
        assertThat(left).isEmpty();
    }
}
