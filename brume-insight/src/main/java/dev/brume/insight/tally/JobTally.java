package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * The tally of one life of a job: the occurrences it owed in a period, each with its verdict. Confined to one thread while it is counted, and
 * only read afterwards.
 *
 * @since 0.1.0
 */
public final class JobTally {
    /** How many findings of each verdict are kept by themselves; all are counted. */
    public static final int MOST_LISTED = 1000;

    private final JobName job;
    private final long id;
    private final boolean dropped;
    private final List<JobAccount.Version> versions;
    private final Instant cursor;
    private final Instant keptFrom;
    private final Map<Verdict, Long> counts = new EnumMap<>(Verdict.class);
    private final Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
    private final Map<Outcome, Long> began = new EnumMap<>(Outcome.class);
    private final Map<String, Long> reasons = new TreeMap<>();
    private final Map<Verdict, List<TallyLine>> listed = new EnumMap<>(Verdict.class);
    private final List<JobAccount.Line> unruled = new ArrayList<>();
    private final List<String> wrongSpans = new ArrayList<>();
    private Duration latest = Duration.ZERO;
    private long takenOver;
    private long running;
    private long ordered;
    private long byEnds;

    JobTally(JobAccount account) {
        this.job = account.name();
        this.id = account.id();
        this.dropped = account.dropped();
        this.versions = account.versions();
        this.cursor = account.cursor();
        this.keptFrom = account.keptFrom();
    }

    void add(TallyLine finding) {
        counts.merge(finding.verdict(), 1L, Long::sum);
        finding.reason().ifPresent(reason -> reasons.merge(reason, 1L, Long::sum));
        finding.late().filter(late -> late.compareTo(latest) > 0).ifPresent(late -> latest = late);
        finding.line().ifPresent(this::addLine);
        List<TallyLine> list = listed.computeIfAbsent(finding.verdict(), verdict -> new ArrayList<>());
        if (list.size() < MOST_LISTED) {
            list.add(finding);
        }
    }

    private void addLine(JobAccount.Line line) {
        line.outcome().ifPresent(outcome -> outcomes.merge(outcome, 1L, Long::sum));
        if (line.started().isPresent()) {
            line.outcome().ifPresent(outcome -> began.merge(outcome, 1L, Long::sum));
            running += line.outcome().isEmpty() ? 1 : 0;
        }
        takenOver += line.takenOver() ? 1 : 0;
    }

    /** Adds runs that all began on time. */
    void addOnTime(LineSums sums) {
        if (sums.plain() > 0) {
            counts.merge(Verdict.ON_TIME, sums.plain(), Long::sum);
            latest = sums.latest().compareTo(latest) > 0 ? sums.latest() : latest;
            sums.outcomes().forEach((outcome, count) -> {
                outcomes.merge(outcome, count, Long::sum);
                began.merge(outcome, count, Long::sum);
            });
            takenOver += sums.takenOver();
        }
    }

    void addOrdered() {
        ordered++;
    }

    void addByEnds(JobAccount.Line line) {
        byEnds++;
        addLine(line);
    }

    void addUnruled(JobAccount.Line line) {
        if (unruled.size() < MOST_LISTED) {
            unruled.add(line);
        }
    }

    void addWrongSpan(String what) {
        wrongSpans.add(what);
    }

    /** {@return the job's name} */
    public JobName job() {
        return job;
    }

    /** {@return the job's id: of two lives of one name, each has its own} */
    public long id() {
        return id;
    }

    /** {@return whether it was dropped since} */
    public boolean dropped() {
        return dropped;
    }

    /** {@return the versions of its definition that were in force in the period, oldest first} */
    public List<JobAccount.Version> versions() {
        return versions;
    }

    /** {@return up to where everything it owed is decided, inclusive} */
    public Instant cursor() {
        return cursor;
    }

    /** {@return before which time retention may have removed what was on record} */
    public Instant keptFrom() {
        return keptFrom;
    }

    /** {@return how many occurrences came to a verdict} */
    public long count(Verdict verdict) {
        return counts.getOrDefault(verdict, 0L);
    }

    /** {@return how many occurrences the rules owed in the period, up to now} */
    public long expected() {
        return counts.values().stream().mapToLong(Long::longValue).sum();
    }

    /** {@return how many of those are on record} */
    public long accounted() {
        return expected() - count(Verdict.NOT_YET) - count(Verdict.BEYOND_RETENTION) - count(Verdict.UNEXPLAINED);
    }

    /** {@return how many wait, or are not planned yet} */
    public long open() {
        return count(Verdict.WAITING) + count(Verdict.NOT_YET);
    }

    /** {@return how many of those that began ended in a way, those owed to the ends of runs before them included} */
    public long began(Outcome outcome) {
        return began.getOrDefault(outcome, 0L);
    }

    /** {@return how many of those that began have not ended: they run, or wait for another attempt} */
    public long running() {
        return running;
    }

    /** {@return how many of those that began failed, those that overstepped their time limit included} */
    public long failed() {
        return began(Outcome.FAILED) + began(Outcome.TIMED_OUT);
    }

    /** {@return how the runs ended that began, and those that were skipped} */
    public Map<Outcome, Long> outcomes() {
        return outcomes;
    }

    /** {@return why occurrences did not run, with how many each} */
    public Map<String, Long> reasons() {
        return reasons;
    }

    /** {@return the findings of a verdict, oldest first, at most {@value #MOST_LISTED}} */
    public List<TallyLine> listed(Verdict verdict) {
        return listed.getOrDefault(verdict, List.of());
    }

    /** {@return by how much the latest of them was late} */
    public Duration latest() {
        return latest;
    }

    /** {@return over how many of them an instance died} */
    public long takenOver() {
        return takenOver;
    }

    /** {@return how many runs in the period were ordered instead: by hand, as one-offs, follow-ups, backfills, re-runs} */
    public long ordered() {
        return ordered;
    }

    /** {@return how many were owed to the ends of runs before them: computed from the ledger, as no rule can be} */
    public long byEnds() {
        return byEnds;
    }

    /** {@return lines that a schedule is said to owe and that no version's rule does, such as after zone rules changed} */
    public List<JobAccount.Line> unruled() {
        return unruled;
    }

    /** {@return spans whose count is not what the rules owed in them, in words} */
    public List<String> wrongSpans() {
        return wrongSpans;
    }

    /** {@return whether everything owed is on record and nothing was missed} */
    public boolean isClean() {
        return count(Verdict.MISSED) == 0 && count(Verdict.UNEXPLAINED) == 0 && wrongSpans.isEmpty();
    }
}
