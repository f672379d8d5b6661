package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.HourSums;
import dev.brume.history.JobAccount;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeSet;

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
     * @param inSums how many runs that began the sums speak of
     * @param inLines how many of them are in the ledger
     */
    public record Difference(JobName job, Instant hour, long inSums, long inLines) {}

    /** {@return where a timeframe's sums are wrong, by job and hour} */
    public static List<Difference> differences(History history, Timeframe frame) {
        List<Difference> found = new ArrayList<>();
        // A run that ends between the two looks makes no difference the second time.
        compare(history, frame).stream()
                .map(Difference::job)
                .distinct()
                .forEach(job -> found.addAll(compare(history, frame.of(job))));
        found.sort(Comparator.comparing(Difference::job).thenComparing(Difference::hour));
        return found;
    }

    private static List<Difference> compare(History history, Timeframe frame) {
        Map<Long, JobAccount> inSums = new HashMap<>();
        history.accounts(frame.inSums(), account -> inSums.put(account.id(), account));
        List<Difference> found = new ArrayList<>();
        history.accounts(frame, account -> {
            JobAccount summed = inSums.get(account.id());
            if (summed != null) {
                compare(account, summed, found);
            }
        });
        return found;
    }

    private static void compare(JobAccount account, JobAccount summed, List<Difference> found) {
        SortedMap<Instant, HourSums> lines = account.byHour();
        SortedMap<Instant, HourSums> sums = summed.byHour();
        TreeSet<Instant> hours = new TreeSet<>(lines.keySet());
        hours.addAll(sums.keySet());
        for (Instant hour : hours) {
            HourSums expected = lines.getOrDefault(hour, HourSums.NONE);
            HourSums said = sums.getOrDefault(hour, HourSums.NONE);
            if (!said.agreesWith(expected)) {
                found.add(new Difference(account.name(), hour, said.plain(), expected.plain()));
            }
        }
    }
}
