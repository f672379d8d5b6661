package dev.brume.insight.tally;

import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Span;
import dev.brume.history.SummedStretch;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;

/**
 * Holds what a job's schedules owed in a period, each occurrence by the version in force at its time, against what is on
 * record.
 *
 * <p>Knows no clock and no store: what it says can be computed again from the same rows by anyone. Stateless.
 *
 * @since 0.1.0
 */
public final class Tally {
    private static final Set<Verdict> NOT_RUN = EnumSet.of(Verdict.SKIPPED, Verdict.MISSED, Verdict.PAUSED);

    private final JobAccount account;
    private final Instant from;
    private final Instant until;
    private final Consumer<TallyLine> judged;
    private final JobTally tally;
    private final Map<Instant, List<JobAccount.Line>> lines = new HashMap<>();
    private final Set<Long> matched = new HashSet<>();
    private final Map<Span, Long> found = new HashMap<>();
    private final IdentityHashMap<SummedStretch, Presumed> presumed = new IdentityHashMap<>();
    private int stretch;
    private Instant hereFrom = Instant.MIN;
    private Instant hereUntil = Instant.MIN;
    private Presumed here = new Presumed();

    /** Occurrences of an hour or a day that are taken to be in its sums, as nothing else is on record of them. */
    private static final class Presumed {
        private long count;
        private long marks;
        private Duration tolerance = ChronoUnit.FOREVER.getDuration();

        void add(Instant planned, Duration allowed) {
            count++;
            marks += LineSums.mark(planned);
            tolerance = allowed.compareTo(tolerance) < 0 ? allowed : tolerance;
        }

        /** Whether the sums are of these occurrences, and none of them was late. */
        boolean is(LineSums sums) {
            return count == sums.plain()
                    && marks == sums.marks()
                    && sums.latest().compareTo(tolerance) <= 0;
        }
    }

    private Tally(JobAccount account, Instant from, Instant until, Consumer<TallyLine> judged) {
        this.account = account;
        this.from = from;
        this.until = until;
        this.judged = judged;
        this.tally = new JobTally(account);
    }

    /**
     * Counts.
     *
     * @param from inclusive
     * @param until exclusive; not later than now, as what is still to come is owed to nobody yet
     * @throws IllegalArgumentException if the account has sums, and they do not tell enough
     */
    public static JobTally of(JobAccount account, Instant from, Instant until) {
        return ofSums(account, from, until)
                .orElseThrow(() -> new IllegalArgumentException("the lines of " + account.name() + " are needed"));
    }

    /**
     * Counts as far as sums tell: whether they are of just those occurrences that are owed in their hours, all on time.
     *
     * @param from inclusive
     * @param until exclusive; not later than now
     * @return the tally; empty if the account has sums and something is not as it is owed, or late, so that the job's lines are needed
     */
    public static Optional<JobTally> ofSums(JobAccount account, Instant from, Instant until) {
        return ofSums(account, from, until, line -> {});
    }

    /**
     * Counts as far as sums tell, and tells what became of each occurrence.
     *
     * @param judged is told of all occurrences that a rule owed, those that are in sums without a line; of no use where the tally is empty
     * @return the same as {@link #ofSums(JobAccount, Instant, Instant)}
     */
    public static Optional<JobTally> ofSums(
            JobAccount account, Instant from, Instant until, Consumer<TallyLine> judged) {
        Tally tally = new Tally(account, from, until, judged);
        JobTally counted = tally.count();
        return tally.addSums() ? Optional.of(counted) : Optional.empty();
    }

    private boolean addSums() {
        for (SummedStretch stretch : account.sums()) {
            if (!presumed.getOrDefault(stretch, new Presumed()).is(stretch.sums())) {
                return false;
            }
            tally.addOnTime(stretch.sums());
        }
        return true;
    }

    private JobTally count() {
        for (JobAccount.Line line : account.lines()) {
            if (line.isOwedByASchedule()) {
                lines.computeIfAbsent(line.planned(), planned -> new ArrayList<>())
                        .add(line);
            } else {
                tally.addOrdered();
            }
        }
        List<JobAccount.Version> versions = account.versions();
        for (int i = 0; i < versions.size(); i++) {
            Instant end = i + 1 < versions.size() ? versions.get(i + 1).after() : Instant.MAX;
            count(versions.get(i), end);
        }
        countTheRest();
        checkSpans();
        return tally;
    }

    /** A version owes what lies after its beginning, up to and with the beginning of the next; a dropped job, up to its cursor. */
    private void count(JobAccount.Version version, Instant end) {
        Job job = version.job();
        Duration tolerance = job.ifMissed().tolerance();
        Instant last = account.dropped() && account.cursor().isBefore(end) ? account.cursor() : end;
        Instant before = from.minusNanos(1);
        Optional<Occurrence> next = job.next(version.after().isAfter(before) ? version.after() : before);
        while (next.isPresent()
                && next.get().instant().isBefore(until)
                && !next.get().instant().isAfter(last)) {
            Instant planned = next.get().instant();
            if (isPresumed(planned, tolerance)) {
                judged.accept(new TallyLine(
                        planned,
                        next.get().zone(),
                        version.number(),
                        Verdict.ON_TIME,
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty()));
            } else {
                TallyLine line = judge(next.get(), version);
                tally.add(line);
                judged.accept(line);
            }
            next = job.next(planned);
        }
    }

    /** An occurrence of which no line and no span is there is taken to be in the sums of its hour or day, if there are some. */
    private boolean isPresumed(Instant planned, Duration tolerance) {
        if (account.sums().isEmpty() || lines.containsKey(planned)) {
            return false;
        }
        if (!planned.isBefore(hereUntil)) {
            goOnTo(planned);
        }
        if (planned.isBefore(hereFrom)
                || !account.spans().isEmpty() && span(planned).isPresent()) {
            return false;
        }
        here.add(planned, tolerance);
        return true;
    }

    /** Finds the sums of the stretch that an occurrence is in, or else of the one after it; occurrences rise. */
    private void goOnTo(Instant planned) {
        while (stretch < account.sums().size()
                && !planned.isBefore(account.sums().get(stretch).until())) {
            stretch++;
        }
        boolean isLast = stretch == account.sums().size();
        hereFrom = isLast ? Instant.MAX : account.sums().get(stretch).from();
        hereUntil = isLast ? Instant.MAX : account.sums().get(stretch).until();
        here = isLast ? new Presumed() : presumed.computeIfAbsent(account.sums().get(stretch), any -> new Presumed());
    }

    private Optional<Span> span(Instant planned) {
        return account.spans().stream()
                .filter(each -> !planned.isBefore(each.from()) && planned.isBefore(each.until()))
                .findFirst();
    }

    private TallyLine judge(Occurrence occurrence, JobAccount.Version version) {
        Instant planned = occurrence.instant();
        List<JobAccount.Line> owed = lines.getOrDefault(planned, List.of());
        if (!owed.isEmpty()) {
            owed.forEach(line -> matched.add(line.run()));
            return judge(occurrence, version, decisive(owed));
        }
        Optional<Span> span = span(planned);
        if (span.isPresent()) {
            found.merge(span.get(), 1L, Long::sum);
            return new TallyLine(
                    planned,
                    occurrence.zone(),
                    version.number(),
                    Verdict.ofReason(span.get().reason()),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.of(span.get().reason()));
        }
        return new TallyLine(
                planned,
                occurrence.zone(),
                version.number(),
                unfound(planned),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }

    private Verdict unfound(Instant planned) {
        if (planned.isAfter(account.cursor())) {
            return Verdict.NOT_YET;
        }
        return planned.isBefore(account.keptFrom()) ? Verdict.BEYOND_RETENTION : Verdict.UNEXPLAINED;
    }

    /** Of what each instance owes, the one that began last, or not at all, speaks for the occurrence. */
    private static JobAccount.Line decisive(List<JobAccount.Line> owed) {
        return owed.stream()
                .max(Comparator.comparing(line -> line.started().orElse(Instant.MAX)))
                .orElseThrow();
    }

    private static TallyLine judge(Occurrence occurrence, JobAccount.Version version, JobAccount.Line line) {
        Optional<Duration> late = line.late();
        Verdict verdict;
        if (line.outcome().filter(outcome -> outcome == Outcome.SKIPPED).isPresent()) {
            verdict = line.reason().map(Verdict::ofReason).orElse(Verdict.SKIPPED);
        } else if (late.isPresent()) {
            Duration tolerance = version.job().ifMissed().tolerance();
            verdict = late.get().compareTo(tolerance) > 0 ? Verdict.LATE : Verdict.ON_TIME;
        } else {
            verdict = line.outcome().isPresent() ? Verdict.SKIPPED : Verdict.WAITING;
        }
        Optional<String> reason = NOT_RUN.contains(verdict)
                ? line.reason().or(() -> line.outcome().map(Outcome::name))
                : Optional.empty();
        return new TallyLine(
                occurrence.instant(), occurrence.zone(), version.number(), verdict, Optional.of(line), late, reason);
    }

    /** Lines that no rule owes: of schedules that go by the ends of runs, or of none. */
    private void countTheRest() {
        boolean byEnds = account.versions().stream()
                .anyMatch(version -> version.job().byEnds().isPresent());
        lines.values().stream()
                .flatMap(List::stream)
                .filter(line -> !matched.contains(line.run()))
                .sorted(Comparator.comparing(JobAccount.Line::planned))
                .forEach(line -> {
                    if (byEnds) {
                        tally.addByEnds(line);
                    } else {
                        tally.addUnruled(line);
                    }
                });
    }

    /** Spans that lie within the period as a whole can be counted again. */
    private void checkSpans() {
        account.spans().stream()
                .filter(span -> !span.first().isBefore(from) && span.last().isBefore(until))
                .filter(span -> !span.first().isBefore(account.keptFrom()))
                .filter(Span::isCounted)
                .filter(span -> span.count() != found.getOrDefault(span, 0L))
                .forEach(span -> tally.addWrongSpan("the span from " + span.first() + " to " + span.last() + " says "
                        + span.count() + ", and the rules owe " + found.getOrDefault(span, 0L) + " in it"));
    }
}
