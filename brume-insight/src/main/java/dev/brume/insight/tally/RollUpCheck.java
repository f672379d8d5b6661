package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.RollUp;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Holds the sums of hours against the lines that they are the sums of. Stateless.
 *
 * @since 0.1.0
 */
public final class RollUpCheck {
    private RollUpCheck() {}

    /**
     * An hour, or a day where it was asked for as a whole, of which the sums are not those of its lines.
     *
     * @param job whose
     * @param from its beginning
     * @param inSums how many lines the sums are of
     * @param inLines how many are in the ledger
     */
    public record Difference(JobName job, Instant from, long inSums, long inLines) {}

    /** {@return where a timeframe's sums are wrong, by job and hour} */
    public static List<Difference> differences(History history, Timeframe frame) {
        // What retention removes between the two looks makes no difference the second time.
        Set<JobName> jobs =
                compare(history, frame).stream().map(Difference::job).collect(Collectors.toUnmodifiableSet());
        List<Difference> found = new ArrayList<>();
        if (!jobs.isEmpty()) {
            found.addAll(compare(history, Accounts.among(jobs, frame)));
        }
        found.sort(Comparator.comparing(Difference::job).thenComparing(Difference::from));
        return found;
    }

    private static List<Difference> compare(History history, Timeframe frame) {
        RollUp rollUp = history.rollUp(frame);
        List<Difference> found = new ArrayList<>();
        history.accounts(
                frame,
                account -> SummedHours.of(frame.inSums(), account.keptFrom())
                        .ifPresent(hours -> compare(account, hours, rollUp, found)));
        return found;
    }

    private static void compare(JobAccount account, SummedHours hours, RollUp rollUp, List<Difference> found) {
        List<JobAccount.Line> left = account.lines().stream()
                .filter(line -> line.outcome().isPresent())
                .filter(line -> hours.holds(line.planned()) && rollUp.reach().covers(line.run()))
                .collect(Collectors.toCollection(ArrayList::new));
        for (SummedStretch kept : rollUp.stretches().getOrDefault(account.id(), List.of())) {
            Timeframe stretch = Timeframe.between(kept.from(), kept.until());
            List<JobAccount.Line> lines =
                    left.stream().filter(line -> stretch.holds(line.planned())).toList();
            left.removeAll(new HashSet<>(lines));
            if (hours.holds(kept.from()) && !kept.sums().agreesWith(LineSums.of(lines))) {
                found.add(new Difference(
                        account.name(),
                        kept.from(),
                        kept.sums().plain() + kept.sums().others(),
                        lines.size()));
            }
        }
        left.stream()
                .collect(Collectors.groupingBy(line -> LineSums.hourOf(line.planned()), Collectors.counting()))
                .forEach((hour, count) -> found.add(new Difference(account.name(), hour, 0, count)));
    }
}
