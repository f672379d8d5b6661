package dev.brume.notice;

import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.SharedName;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.Collections;
import java.util.EnumSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What is worth telling of which jobs, and to which channels. Immutable: each method returns another one.
 *
 * <p>A rule concerns the jobs of its namespace, all of them unless it says which; one of the whole cluster concerns every job, and what concerns
 * no job.
 *
 * @since 0.1.0
 */
public final class NoticeRule {
    /** How long repeats are gathered before they are told together, unless a rule says otherwise. */
    public static final Duration DIGEST = Duration.ofHours(1);

    private static final Duration SHORTEST_DIGEST = Duration.ofMinutes(1);
    private static final Duration LONGEST_DIGEST = Duration.ofDays(7);
    private static final int MOST_IN_A_ROW = 10_000;
    private static final int MOST_CHANNELS = 16;

    private final Parts parts;

    private record Parts(
            String name,
            Set<NoticeKind> kinds,
            OptionalInt failedInARow,
            OptionalInt skippedInARow,
            Optional<Duration> late,
            Optional<Duration> tookLonger,
            OptionalInt percentile,
            JobScope of,
            List<String> to,
            Duration digest,
            boolean recovery) {}

    private NoticeRule(Parts parts) {
        this.parts = parts;
    }

    /**
     * Begins a rule.
     *
     * @param name {@code name} in the main namespace, {@code namespace/name}, or {@code /name} for the whole cluster's
     */
    public static NoticeRule named(String name) {
        return new NoticeRule(new Parts(
                SharedName.parse(name, "notices"),
                Set.of(),
                OptionalInt.empty(),
                OptionalInt.empty(),
                Optional.empty(),
                Optional.empty(),
                OptionalInt.empty(),
                JobScope.ALL,
                List.of(),
                DIGEST,
                /* recovery= */ true));
    }

    private NoticeRule with(
            Set<NoticeKind> kinds,
            OptionalInt failed,
            OptionalInt skipped,
            Optional<Duration> late,
            Optional<Duration> longer,
            OptionalInt percentile) {
        return new NoticeRule(new Parts(
                parts.name,
                kinds,
                failed,
                skipped,
                late,
                longer,
                percentile,
                parts.of,
                parts.to,
                parts.digest,
                parts.recovery));
    }

    private NoticeRule with(JobScope of, List<String> to, Duration digest, boolean recovery) {
        return new NoticeRule(new Parts(
                parts.name,
                parts.kinds,
                parts.failedInARow,
                parts.skippedInARow,
                parts.late,
                parts.tookLonger,
                parts.percentile,
                of,
                to,
                digest,
                recovery));
    }

    /**
     * {@return the rule asking for more}
     *
     * @param kinds those that are asked for as they are
     * @throws IllegalArgumentException if one follows from others, or needs a number: those have methods of their own
     */
    public NoticeRule tell(NoticeKind... kinds) {
        Set<NoticeKind> all = EnumSet.noneOf(NoticeKind.class);
        all.addAll(parts.kinds);
        for (NoticeKind kind : kinds) {
            if (!kind.isAskedFor() || kind.isMeasured()) {
                throw new IllegalArgumentException("tell: '" + kind.word() + "' is not one of "
                        + NoticeKind.plain().stream().map(NoticeKind::word).collect(Collectors.joining(", ")));
            }
            all.add(kind);
        }
        return with(
                Collections.unmodifiableSet(all),
                parts.failedInARow,
                parts.skippedInARow,
                parts.late,
                parts.tookLonger,
                parts.percentile);
    }

    /**
     * {@return the rule asking for runs of a job that fail in a row}
     *
     * @param runs how many, 2 to 10000
     */
    public NoticeRule failedInARow(int runs) {
        return with(
                parts.kinds,
                OptionalInt.of(inARow("failedInARow", runs)),
                parts.skippedInARow,
                parts.late,
                parts.tookLonger,
                parts.percentile);
    }

    /**
     * {@return the rule asking for occurrences of a job that are skipped in a row}
     *
     * @param occurrences how many, 1 to 10000
     */
    public NoticeRule skippedInARow(int occurrences) {
        if (occurrences < 1 || occurrences > MOST_IN_A_ROW) {
            throw new IllegalArgumentException("skippedInARow: " + occurrences + " is outside 1 to " + MOST_IN_A_ROW);
        }
        return with(
                parts.kinds,
                parts.failedInARow,
                OptionalInt.of(occurrences),
                parts.late,
                parts.tookLonger,
                parts.percentile);
    }

    private static int inARow(String key, int count) {
        if (count < 2 || count > MOST_IN_A_ROW) {
            throw new IllegalArgumentException(key + ": " + count + " is outside 2 to " + MOST_IN_A_ROW);
        }
        return count;
    }

    /**
     * {@return the rule asking for runs that have not begun so long after their planned time}
     *
     * @param by from 1 s
     */
    public NoticeRule late(Duration by) {
        return with(
                parts.kinds,
                parts.failedInARow,
                parts.skippedInARow,
                Optional.of(Durations.checked("late", by, Duration.ofSeconds(1), Durations.LONGEST)),
                parts.tookLonger,
                parts.percentile);
    }

    /**
     * {@return the rule asking for runs whose attempt takes longer}
     *
     * @param than from 1 s
     */
    public NoticeRule tookLonger(Duration than) {
        return with(
                parts.kinds,
                parts.failedInARow,
                parts.skippedInARow,
                parts.late,
                Optional.of(Durations.checked("tookLonger", than, Duration.ofSeconds(1), Durations.LONGEST)),
                parts.percentile);
    }

    /**
     * {@return the rule asking for runs that take longer than so many percent of the job's own did within the last 30 days}
     *
     * @param percent 50 to 100
     */
    public NoticeRule tookLongerThanUsual(int percent) {
        if (percent < 50 || percent > 100) {
            throw new IllegalArgumentException("tookLongerThanUsual: " + percent + " is outside 50 to 100");
        }
        return with(
                parts.kinds,
                parts.failedInARow,
                parts.skippedInARow,
                parts.late,
                parts.tookLonger,
                OptionalInt.of(percent));
    }

    /** {@return the rule for some jobs alone} */
    public NoticeRule of(JobScope jobs) {
        return with(jobs, parts.to, parts.digest, parts.recovery);
    }

    /**
     * {@return the rule telling channels}
     *
     * @param channels by their names as the rule's namespace writes them, 1 to 16
     */
    public NoticeRule to(String... channels) {
        List<String> all = Stream.of(channels)
                .map(name ->
                        SharedName.isOfCluster(parts.name) ? ofCluster(name) : SharedName.in(namespace(), name, "to"))
                .distinct()
                .toList();
        if (all.isEmpty() || all.size() > MOST_CHANNELS) {
            throw new IllegalArgumentException("to: " + all.size() + " channels is outside 1 to " + MOST_CHANNELS);
        }
        return with(parts.of, all, parts.digest, parts.recovery);
    }

    /** A rule of the cluster tells channels of the cluster, whether their names begin with the stroke or not. */
    private static String ofCluster(String name) {
        return SharedName.parse(name.startsWith("/") ? name : "/" + name, "to");
    }

    /**
     * {@return the rule gathering repeats for so long before they are told together}
     *
     * @param every from a minute to 7 days
     */
    public NoticeRule digest(Duration every) {
        return with(
                parts.of,
                parts.to,
                Durations.checked("digest", every, SHORTEST_DIGEST, LONGEST_DIGEST),
                parts.recovery);
    }

    /** {@return the rule without a word when it is over} */
    public NoticeRule withoutRecovery() {
        return with(parts.of, parts.to, parts.digest, /* recovery= */ false);
    }

    // What it says.

    /** {@return its name in full} */
    public String name() {
        return parts.name;
    }

    /** {@return its namespace; {@code main} if it is the cluster's} */
    public String namespace() {
        return isOfCluster() ? JobName.MAIN : SharedName.namespaceOf(parts.name);
    }

    /** {@return whether it concerns every namespace, and what concerns no job} */
    public boolean isOfCluster() {
        return SharedName.isOfCluster(parts.name);
    }

    /** {@return the kinds that it asks for as they are} */
    public Set<NoticeKind> kinds() {
        return parts.kinds;
    }

    /** {@return all kinds that it asks for} */
    public Set<NoticeKind> all() {
        Set<NoticeKind> all = EnumSet.noneOf(NoticeKind.class);
        all.addAll(parts.kinds);
        parts.failedInARow.ifPresent(runs -> all.add(NoticeKind.FAILED_IN_A_ROW));
        parts.skippedInARow.ifPresent(runs -> all.add(NoticeKind.SKIPPED_IN_A_ROW));
        parts.late.ifPresent(by -> all.add(NoticeKind.LATE));
        if (parts.tookLonger.isPresent() || parts.percentile.isPresent()) {
            all.add(NoticeKind.TOOK_LONGER);
        }
        return all;
    }

    /** {@return how many runs that fail in a row are told} */
    public OptionalInt failedInARow() {
        return parts.failedInARow;
    }

    /** {@return how many occurrences that are skipped in a row are told} */
    public OptionalInt skippedInARow() {
        return parts.skippedInARow;
    }

    /** {@return from how late on it is told} */
    public Optional<Duration> late() {
        return parts.late;
    }

    /** {@return from how long on it is told} */
    public Optional<Duration> tookLonger() {
        return parts.tookLonger;
    }

    /** {@return beyond which percentile of the job's own past it is told} */
    public OptionalInt tookLongerThanUsual() {
        return parts.percentile;
    }

    /** {@return of which jobs of its namespace} */
    public JobScope of() {
        return parts.of;
    }

    /** {@return the channels by their names in full} */
    public List<String> to() {
        return parts.to;
    }

    /** {@return how long repeats are gathered} */
    public Duration digest() {
        return parts.digest;
    }

    /** {@return whether it is told when it is over} */
    public boolean recovery() {
        return parts.recovery;
    }

    /** {@return whether it concerns a job} */
    public boolean concerns(JobName job, Set<String> tags) {
        return (isOfCluster() || namespace().equals(job.namespace())) && parts.of.holds(job, tags);
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof NoticeRule that && parts.equals(that.parts);
    }

    @Override
    public int hashCode() {
        return Objects.hash(parts);
    }

    @Override
    public String toString() {
        return parts.toString();
    }
}
