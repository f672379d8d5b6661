package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.HourSums;
import dev.brume.history.JobAccount;
import dev.brume.history.RollUp;
import dev.brume.history.SummedHours;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * Holds the sums of hours against the lines that they are the sums of. Stateless.
 *
 * @since 0.1.0
 */
public final class RollUpCheck {
    private RollUpCheck() {}

    /**
     * An hour of which the sums are not those of its lines.
     *
     * @param job whose
     * @param hour its beginning
     * @param inSums how many lines the sums are of
     * @param inLines how many are in the ledger
     */
    public record Difference(JobName job, Instant hour, long inSums, long inLines) {}

    /** {@return where a timeframe's sums are wrong, by job and hour} */
    public static List<Difference> differences(History history, Timeframe frame) {
        List<Difference> found = new ArrayList<>();
        // What retention removes between the two looks makes no difference the second time.
        compare(history, frame).stream()
                .map(Difference::job)
                .distinct()
                .forEach(job -> found.addAll(compare(history, frame.of(job))));
        found.sort(Comparator.comparing(Difference::job).thenComparing(Difference::hour));
        return found;
    }

    private static List<Difference> compare(History history, Timeframe frame) {
        RollUp rollUp = history.rollUp(frame);
        List<Difference> found = new ArrayList<>();
        history.accounts(frame, account -> {
            SortedMap<Instant, HourSums> kept = rollUp.hours().getOrDefault(account.id(), Collections.emptySortedMap());
            Map<Instant, List<JobAccount.Line>> lines = account.lines().stream()
                    .filter(line -> line.outcome().isPresent() && rollUp.reach().covers(line.run()))
                    .collect(Collectors.groupingBy(line -> HourSums.hourOf(line.planned())));
            SummedHours.of(frame.inSums(), account.keptFrom())
                    .ifPresent(hours -> compare(account.name(), hours, kept, lines, found));
        });
        return found;
    }

    private static void compare(
            JobName job,
            SummedHours in,
            SortedMap<Instant, HourSums> kept,
            Map<Instant, List<JobAccount.Line>> lines,
            List<Difference> found) {
        TreeSet<Instant> hours = new TreeSet<>(lines.keySet());
        hours.addAll(kept.keySet());
        hours.removeIf(hour -> !in.holds(hour));
        for (Instant hour : hours) {
            HourSums expected = HourSums.of(lines.getOrDefault(hour, List.of()));
            HourSums said = kept.getOrDefault(hour, HourSums.NONE);
            if (!said.agreesWith(expected)) {
                found.add(
                        new Difference(job, hour, said.plain() + said.others(), expected.plain() + expected.others()));
            }
        }
    }
}
