package dev.brume.history;

import dev.brume.Outcome;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Some ended lines of a job, summed up: plain ones, which are those that a schedule owes once and that began. All others are only counted.
 *
 * @param others how many lines are not plain, and so not among what follows
 * @param outcomes how the plain ones ended
 * @param marks the sum of the {@linkplain #mark marks} of the instants that they were planned for: with how many there are, it tells
 *     which they are
 * @param takenOver over how many of them an instance died
 * @param latest by how much the latest began late
 * @param late by how much they began late
 * @param took how long their last attempts took
 * @param tookInAll the same, all together
 * @param successes when those began that succeeded; empty if there were none
 * @since 0.1.0
 */
public record LineSums(
        long others,
        Map<Outcome, Long> outcomes,
        long marks,
        long takenOver,
        Duration latest,
        Histogram late,
        Histogram took,
        Duration tookInAll,
        Optional<Successes> successes) {
    /** Of no lines. */
    public static final LineSums NONE = new LineSums(
            0, Map.of(), 0, 0, Duration.ZERO, Histogram.NONE, Histogram.NONE, Duration.ZERO, Optional.empty());

    /** {@return the sums of some lines} */
    public static LineSums of(Collection<JobAccount.Line> lines) {
        List<JobAccount.Line> plain =
                lines.stream().filter(JobAccount.Line::isPlain).toList();
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        plain.forEach(line -> outcomes.merge(line.outcome().orElseThrow(), 1L, Long::sum));
        List<Duration> late =
                plain.stream().flatMap(line -> line.late().stream()).toList();
        List<Duration> took =
                plain.stream().flatMap(line -> line.took().stream()).toList();
        return new LineSums(
                (long) lines.size() - plain.size(),
                outcomes,
                plain.stream().mapToLong(line -> mark(line.planned())).sum(),
                plain.stream().filter(JobAccount.Line::takenOver).count(),
                late.stream().max(Comparator.naturalOrder()).orElse(Duration.ZERO),
                Histogram.of(late),
                Histogram.of(took),
                took.stream().reduce(Duration.ZERO, Duration::plus),
                plain.stream()
                        .filter(JobAccount.Line::hasSucceeded)
                        .flatMap(line -> line.started().stream())
                        .sorted()
                        .map(Successes::at)
                        .reduce(Successes::plus));
    }

    /** {@return the beginning of the hour of UTC that an instant is in} */
    public static Instant hourOf(Instant planned) {
        return planned.truncatedTo(ChronoUnit.HOURS);
    }

    /** {@return a number for an instant, of which other instants have others: sums of them hardly ever agree by chance} */
    public static long mark(Instant planned) {
        // The finishing steps of a common generator of random numbers (Steele, Lea, Flood, OOPSLA 2014).
        long mixed = planned.getEpochSecond() * 1_000_000_000L + planned.getNano() + 0x9E3779B97F4A7C15L;
        mixed = (mixed ^ mixed >>> 30) * 0xBF58476D1CE4E5B9L;
        mixed = (mixed ^ mixed >>> 27) * 0x94D049BB133111EBL;
        return mixed ^ mixed >>> 31;
    }

    /** {@return how many lines are plain} */
    public long plain() {
        long plain = 0;
        for (long count : outcomes.values()) {
            plain += count;
        }
        return plain;
    }

    /** {@return the sums of these lines and others} */
    public LineSums plus(LineSums other) {
        return sum(List.of(this, other));
    }

    /** {@return the sums of the lines of any of some} */
    public static LineSums sum(Collection<LineSums> all) {
        if (all.isEmpty()) {
            return NONE;
        }
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        long others = 0;
        long marks = 0;
        long takenOver = 0;
        Duration latest = Duration.ZERO;
        Duration tookInAll = Duration.ZERO;
        for (LineSums each : all) {
            each.outcomes.forEach((outcome, count) -> outcomes.merge(outcome, count, Long::sum));
            others += each.others;
            marks += each.marks;
            takenOver += each.takenOver;
            latest = latest.compareTo(each.latest) >= 0 ? latest : each.latest;
            tookInAll = tookInAll.plus(each.tookInAll);
        }
        return new LineSums(
                others,
                outcomes,
                marks,
                takenOver,
                latest,
                Histogram.sum(all.stream().map(LineSums::late).toList()),
                Histogram.sum(all.stream().map(LineSums::took).toList()),
                tookInAll,
                all.stream().flatMap(each -> each.successes.stream()).reduce(Successes::plus));
    }

    /** {@return whether two are the same, but for what depends on the order in which lines were added} */
    public boolean agreesWith(LineSums other) {
        return equals(other.with(other.others, successes))
                && successes.map(Successes::first).equals(other.successes.map(Successes::first))
                && successes.map(Successes::last).equals(other.successes.map(Successes::last));
    }

    LineSums withoutOthers() {
        return with(0, successes);
    }

    private LineSums with(long count, Optional<Successes> times) {
        return new LineSums(count, outcomes, marks, takenOver, latest, late, took, tookInAll, times);
    }
}
