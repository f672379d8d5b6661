package dev.brume.internal.retention;

import dev.brume.history.Change;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Orderer;
import dev.brume.spi.RollUpSteps;
import dev.brume.spi.RollUpSteps.Day;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * Sums up what came into the ledger, by job and hour.
 *
 * <p>What was summed up is known by the runs' numbers, as in seals, and noted in the same transaction: so each line is in the sums once, however
 * late it is committed, and whoever reads can add what is not in them yet.
 */
public final class RollUpDuty {
    private static final int BATCH = 30_000;

    /** Where one transaction writes after the other, nobody is to wait long for this one. */
    private static final int SHORT_BATCH = 2_000;

    /** The sums of how many days of jobs are in memory at once; those of a busy day are some kilobytes. */
    private static final int DAYS = 500;

    private final Instance instance;

    /** Creates the step. */
    public RollUpDuty(Instance instance) {
        this.instance = instance;
    }

    /** Sums up everything that is not yet; returns how many lines were added. */
    public long step() {
        int most = instance.store().locksRowsAlone() ? BATCH : SHORT_BATCH;
        long added = 0;
        int some;
        do {
            some = instance.transact(tx -> sumUp(tx, most));
            added += some;
        } while (some == most);
        return added;
    }

    /** Sums up everything anew, and says so in the change log; returns how many lines there are. */
    public long anew(Orderer orderer) {
        Change change =
                orderer.change("SUMMED_ANEW", Optional.empty(), "the sums of the ledger by job and hour are made anew");
        instance.transact(tx -> {
            tx.rollUp().lockReach();
            tx.rollUp().clear();
            tx.rollUp().reach(Reach.NONE);
            tx.addChanges(List.of(change));
            return null;
        });
        return step();
    }

    private static int sumUp(Transaction tx, int most) {
        RollUpSteps steps = tx.rollUp();
        Reach reach = steps.lockReach();
        List<RollUpSteps.Line> lines = steps.lines(reach.high(), reach.open(), most);
        if (lines.isEmpty()) {
            return 0;
        }
        Map<Day, SortedMap<Instant, List<JobAccount.Line>>> added = new HashMap<>();
        for (RollUpSteps.Line line : lines) {
            Instant hour = LineSums.hourOf(line.line().planned());
            added.computeIfAbsent(new Day(line.job(), hour.truncatedTo(ChronoUnit.DAYS)), day -> new TreeMap<>())
                    .computeIfAbsent(hour, begin -> new ArrayList<>())
                    .add(line.line());
        }
        List<Day> days = added.keySet().stream()
                .sorted(Comparator.comparing(Day::begin).thenComparing(Day::job))
                .toList();
        for (int from = 0; from < days.size(); from += DAYS) {
            add(steps, days.subList(from, Math.min(from + DAYS, days.size())), added);
        }
        steps.reach(reach.past(
                IdRanges.of(lines.stream().map(line -> line.line().run()).toList())));
        return lines.size();
    }

    private static void add(
            RollUpSteps steps, List<Day> days, Map<Day, SortedMap<Instant, List<JobAccount.Line>>> added) {
        Map<Day, SortedMap<Instant, LineSums>> before = steps.read(days);
        Map<Day, SortedMap<Instant, LineSums>> sums = new HashMap<>();
        for (Day day : days) {
            SortedMap<Instant, LineSums> ofDay = new TreeMap<>(before.getOrDefault(day, new TreeMap<>()));
            Objects.requireNonNull(added.get(day))
                    .forEach((hour, more) -> ofDay.merge(hour, LineSums.of(more), LineSums::plus));
            sums.put(day, ofDay);
        }
        steps.write(sums);
    }
}
