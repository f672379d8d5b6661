package dev.brume.insight.tally;

import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A job's figures over a period, from its lines alone, ordered ones included.
 *
 * @param outcomes how its runs ended, and how many each
 * @param live how many have not ended
 * @param took how long the last attempts took, as percentiles
 * @param meanTook how long they took on average
 * @param late how long after their planned times runs began, as percentiles
 * @param silence the longest stretch without the start of a run that succeeded; from the later of the period's and the job's
 *     beginning to the period's end; empty if the job was not there
 * @since 0.1.0
 */
public record JobFigures(
        Map<Outcome, Long> outcomes,
        long live,
        Optional<Percentiles> took,
        Optional<Duration> meanTook,
        Optional<Percentiles> late,
        Optional<Duration> silence) {

    /**
     * Percentiles by nearest rank: the smallest value that so many percent do not exceed.
     *
     * @param p50 the median
     * @param p90 of ninety percent
     * @param p99 of ninety-nine percent
     */
    public record Percentiles(Duration p50, Duration p90, Duration p99) {
        static Optional<Percentiles> of(List<Duration> values) {
            if (values.isEmpty()) {
                return Optional.empty();
            }
            List<Duration> sorted = values.stream().sorted().toList();
            return Optional.of(new Percentiles(at(sorted, 50), at(sorted, 90), at(sorted, 99)));
        }

        private static Duration at(List<Duration> sorted, int percent) {
            int rank = (int) Math.ceil(percent / 100.0 * sorted.size());
            return sorted.get(Math.max(1, rank) - 1);
        }
    }

    /**
     * Computes the figures.
     *
     * @param from inclusive
     * @param until exclusive
     */
    public static JobFigures of(JobAccount account, Instant from, Instant until) {
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        List<Duration> took = new ArrayList<>();
        List<Duration> late = new ArrayList<>();
        List<Instant> successes = new ArrayList<>();
        long live = 0;
        for (JobAccount.Line line : account.lines()) {
            if (line.planned().isBefore(from) || !line.planned().isBefore(until)) {
                continue;
            }
            if (line.outcome().isEmpty()) {
                live++;
                continue;
            }
            outcomes.merge(line.outcome().get(), 1L, Long::sum);
            line.took().ifPresent(took::add);
            line.late().ifPresent(late::add);
            if (line.outcome().get() == Outcome.SUCCEEDED) {
                line.started().ifPresent(successes::add);
            }
        }
        return new JobFigures(
                outcomes,
                live,
                Percentiles.of(took),
                mean(took),
                Percentiles.of(late),
                silence(account, successes, from, until));
    }

    private static Optional<Duration> mean(List<Duration> took) {
        return took.isEmpty()
                ? Optional.empty()
                : Optional.of(
                        took.stream().reduce(Duration.ZERO, Duration::plus).dividedBy(took.size()));
    }

    private static Optional<Duration> silence(
            JobAccount account, List<Instant> successes, Instant from, Instant until) {
        Optional<Instant> born =
                account.versions().stream().map(JobAccount.Version::after).min(Instant::compareTo);
        if (born.isEmpty() || !born.get().isBefore(until)) {
            return Optional.empty();
        }
        Instant last = born.get().isAfter(from) ? born.get() : from;
        Duration longest = Duration.ZERO;
        List<Instant> marks = new ArrayList<>(successes.stream().sorted().toList());
        marks.add(until);
        for (Instant mark : marks) {
            Duration gap = Duration.between(last, mark);
            longest = gap.compareTo(longest) > 0 ? gap : longest;
            last = mark.isAfter(last) ? mark : last;
        }
        return Optional.of(longest);
    }

    /** {@return how many of its runs ended, skipped ones not counted: they never began} */
    public long ended() {
        return ended(outcomes);
    }

    private static long ended(Map<Outcome, Long> outcomes) {
        return outcomes.entrySet().stream()
                .filter(entry -> entry.getKey() != Outcome.SKIPPED)
                .mapToLong(Map.Entry::getValue)
                .sum();
    }

    /** {@return which share of the runs that succeeded or failed succeeded, 0 to 1; cancelled ones are neither} */
    public Optional<Double> successShare() {
        return successShare(outcomes);
    }

    /** {@return which share of some runs that succeeded or failed succeeded, 0 to 1; cancelled ones are neither} */
    public static Optional<Double> successShare(Map<Outcome, Long> outcomes) {
        long good = outcomes.getOrDefault(Outcome.SUCCEEDED, 0L);
        long judged = ended(outcomes) - outcomes.getOrDefault(Outcome.CANCELLED, 0L);
        return judged == 0 ? Optional.empty() : Optional.of((double) good / judged);
    }
}
