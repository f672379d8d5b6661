package dev.brume.insight.tally;

import dev.brume.Outcome;
import dev.brume.history.Ends;
import dev.brume.history.Histogram;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Successes;
import dev.brume.history.SummedStretch;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A job's figures over a period, from its lines, or what they were summed up to, ordered ones included.
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

        /** Of some values, and of those of sums: precisely if there are no sums. */
        static Optional<Percentiles> of(List<Duration> values, List<Histogram> sums) {
            if (sums.isEmpty()) {
                return of(values);
            }
            List<Histogram> all = new ArrayList<>(sums);
            all.add(Histogram.of(values));
            Histogram sum = Histogram.sum(all);
            return sum.percentile(50)
                    .map(median -> new Percentiles(
                            median,
                            sum.percentile(90).orElseThrow(),
                            sum.percentile(99).orElseThrow()));
        }
    }

    /**
     * Computes the figures.
     *
     * @param from inclusive
     * @param until exclusive
     * @throws IllegalArgumentException if the account has sums, and they do not tell enough
     */
    public static JobFigures of(JobAccount account, Instant from, Instant until) {
        return ofSums(account, from, until)
                .orElseThrow(() -> new IllegalArgumentException("the lines of " + account.name() + " are needed"));
    }

    /**
     * Computes the figures as far as sums by the hour tell. Percentiles of them are right within two percent, all else precisely.
     *
     * @param from inclusive; if it is not at the full hour, the account is {@linkplain dev.brume.history.Timeframe#splitAt split} there
     * @param until exclusive; the same
     * @return the figures; empty if the account has sums from which the longest silence cannot be told, so that the job's lines are needed
     */
    public static Optional<JobFigures> ofSums(JobAccount account, Instant from, Instant until) {
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        List<Duration> took = new ArrayList<>();
        List<Duration> late = new ArrayList<>();
        List<Successes> successes = new ArrayList<>();
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
            if (line.hasSucceeded()) {
                line.started().map(Successes::at).ifPresent(successes::add);
            }
        }
        List<LineSums> sums = sums(account, from, until);
        sums.forEach(hour -> {
            hour.outcomes().forEach((outcome, count) -> outcomes.merge(outcome, count, Long::sum));
            hour.successes().ifPresent(successes::add);
        });
        Optional<Instant> born = born(account).filter(until::isAfter);
        Silence silence = new Silence(born.filter(from::isBefore).orElse(from));
        silence.add(successes);
        silence.end(until);
        if (born.isPresent() && !silence.isKnown()) {
            return Optional.empty();
        }
        return Optional.of(new JobFigures(
                outcomes,
                live,
                Percentiles.of(took, sums.stream().map(LineSums::took).toList()),
                mean(took, sums),
                Percentiles.of(late, sums.stream().map(LineSums::late).toList()),
                born.map(there -> silence.longest())));
    }

    /**
     * {@return how the runs of an account ended that were planned in a part of its period}
     *
     * @param from inclusive; if it is not at the full hour, the account is {@linkplain dev.brume.history.Timeframe#splitAt split} there
     * @param until exclusive; the same
     */
    public static Ends endsOf(JobAccount account, Instant from, Instant until) {
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        List<Duration> took = new ArrayList<>();
        account.lines().stream()
                .filter(line -> !line.planned().isBefore(from) && line.planned().isBefore(until))
                .forEach(line -> line.outcome().ifPresent(outcome -> {
                    outcomes.merge(outcome, 1L, Long::sum);
                    line.took().ifPresent(took::add);
                }));
        List<LineSums> sums = sums(account, from, until);
        sums.forEach(hour -> hour.outcomes().forEach((outcome, count) -> outcomes.merge(outcome, count, Long::sum)));
        return new Ends(outcomes, mean(took, sums));
    }

    private static List<LineSums> sums(JobAccount account, Instant from, Instant until) {
        return account.sums().stream()
                .filter(stretch ->
                        !stretch.from().isBefore(from) && !stretch.until().isAfter(until))
                .map(SummedStretch::sums)
                .toList();
    }

    private static Optional<Duration> mean(List<Duration> took, List<LineSums> sums) {
        long count = took.size()
                + sums.stream().mapToLong(hour -> hour.took().count()).sum();
        Duration all = Stream.concat(took.stream(), sums.stream().map(LineSums::tookInAll))
                .reduce(Duration.ZERO, Duration::plus);
        return count == 0 ? Optional.empty() : Optional.of(all.dividedBy(count));
    }

    private static Optional<Instant> born(JobAccount account) {
        return account.versions().stream().map(JobAccount.Version::after).min(Instant::compareTo);
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
