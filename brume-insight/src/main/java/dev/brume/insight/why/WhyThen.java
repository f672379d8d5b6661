package dev.brume.insight.why;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Span;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.TallyLine;
import dev.brume.insight.tally.Verdict;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Says what became of one occurrence, and why. Stateless.
 *
 * @since 0.1.0
 */
public final class WhyThen {
    private static final Duration NOTICEABLE = Duration.ofSeconds(5);

    private final Situation situation;
    private final JobAccount account;
    private final JobAccount.Version version;
    private final Occurrence occurrence;
    private final TallyLine finding;
    private final Optional<String> pausedThen;

    private WhyThen(
            Situation situation,
            JobAccount account,
            JobAccount.Version version,
            Occurrence occurrence,
            TallyLine finding,
            Optional<String> pausedThen) {
        this.situation = situation;
        this.account = account;
        this.version = version;
        this.occurrence = occurrence;
        this.finding = finding;
        this.pausedThen = pausedThen;
    }

    /**
     * Answers about the occurrence at an instant, or the nearest before it within a minute.
     *
     * @param account of the job, around that instant
     * @param pausedThen who had it paused then, in words; empty if it was not paused
     */
    public static Answer of(Situation situation, JobAccount account, Instant at, Optional<String> pausedThen) {
        Optional<JobAccount.Version> version = account.versions().stream()
                .filter(each -> each.after().isBefore(at))
                .reduce((a, b) -> b);
        if (version.isEmpty()) {
            return Answer.of(
                    Answer.Code.NOT_DEFINED,
                    Optional.of(at),
                    "The job was not defined yet at " + situation.time(at) + ".");
        }
        Job job = version.get().job();
        Optional<Occurrence> found = job.enabled()
                ? job.timeline()
                        .previous(at.plusNanos(1))
                        .filter(occurrence -> !occurrence.instant().isBefore(at.minus(Duration.ofMinutes(1))))
                : Optional.empty();
        if (found.isEmpty()) {
            return notOwed(situation, version.get(), at);
        }
        Instant planned = found.get().instant();
        JobTally tally = Tally.of(account, planned, planned.plus(1, ChronoUnit.MICROS));
        Optional<TallyLine> finding = List.of(Verdict.values()).stream()
                .flatMap(verdict -> tally.listed(verdict).stream())
                .findFirst();
        if (finding.isEmpty()) {
            return notOwed(situation, version.get(), at);
        }
        WhyThen why = new WhyThen(situation, account, version.get(), found.get(), finding.get(), pausedThen);
        return Answer.of(Answer.Code.valueOf(finding.get().verdict().name()), Optional.of(planned), why.sentence())
                .because(finding.get().reason())
                .about(why.runs())
                .on(why.facts());
    }

    private static Answer notOwed(Situation situation, JobAccount.Version version, Instant at) {
        Job job = version.job();
        String before = job.timeline()
                .previous(at)
                .map(each -> situation.time(each.instant()))
                .orElse("never");
        String after = job.next(at).map(each -> situation.time(each.instant())).orElse("never");
        String why = job.enabled()
                ? LeftOut.of(job, at).map(text -> ", since " + text).orElse("")
                : ", as version " + version.number() + " was disabled";
        String sentence = "Nothing was owed at " + situation.time(at) + why + ": before it at " + before
                + ", after it at " + after + ".";
        return Answer.of(Answer.Code.NOT_OWED, Optional.of(at), sentence)
                .on(List.of(inForce(situation, version), new Answer.Fact("schedule", job.scheduleInWords())));
    }

    private static Answer.Fact inForce(Situation situation, JobAccount.Version version) {
        return new Answer.Fact(
                "version", version.number() + ", in force since " + situation.time(version.after()), version.after());
    }

    private String sentence() {
        String which = "The occurrence of " + situation.time(occurrence.instant()) + " ";
        return which
                + switch (finding.verdict()) {
                    case ON_TIME -> "ran " + onTime() + ": " + began() + takenOver() + ".";
                    case LATE -> "ran late: " + began() + ", because " + whyLate() + takenOver() + ".";
                    case SKIPPED, MISSED, PAUSED -> (finding.line().isPresent() ? skipped() : passedOver()) + ".";
                    case WAITING ->
                        "waits: run " + line().run() + " is "
                                + line().state().map(Enum::name).orElse("live")
                                + " (brume why without --at says for what).";
                    case NOT_YET -> "is due and not planned yet: " + notYet() + ".";
                    case BEYOND_RETENTION ->
                        "lies before what the ledger still keeps of this job; what became of it is no longer on record.";
                    case UNEXPLAINED ->
                        "is not on record, although everything up to " + situation.time(account.cursor())
                                + " was decided: someone removed its line, or this is a defect.";
                };
    }

    /** Its own, and the one that was in its way. */
    private List<Long> runs() {
        boolean inTheWay = finding.line().isPresent()
                && Set.of(Verdict.SKIPPED, Verdict.MISSED, Verdict.LATE).contains(finding.verdict());
        return Stream.concat(
                        finding.line().map(JobAccount.Line::run).stream(),
                        inTheWay ? busyWith().map(RunView::id).stream() : Stream.empty())
                .distinct()
                .toList();
    }

    private JobAccount.Line line() {
        return finding.line().orElseThrow();
    }

    /** A tolerance may be long: then on time is not what one expects to read. */
    private String onTime() {
        return finding.late().filter(late -> late.compareTo(NOTICEABLE) > 0).isPresent()
                ? "within its tolerance of "
                        + Durations.about(version.job().ifMissed().tolerance())
                : "on time";
    }

    private String began() {
        String end = line().outcome()
                .map(outcome -> " and ended " + outcome
                        + line().took()
                                .map(took -> " after " + Durations.about(took))
                                .orElse(""))
                .orElse(", and goes on");
        return "run " + line().run() + " began "
                + Durations.about(finding.late().orElseThrow()) + " after its time"
                + line().instance().map(instance -> " on " + instance).orElse("") + end;
    }

    private String whyLate() {
        Instant planned = occurrence.instant();
        if (pausedThen.isPresent()) {
            return "the job was paused at its time (" + pausedThen.get() + ") and it was made up for afterwards";
        }
        if (situation.servingAt(planned).isEmpty()) {
            return "no instance that serves the lane " + version.job().lane() + " was alive at its time"
                    + situation.sessions().stream()
                            .map(session -> session.row().openedAt())
                            .filter(opened -> opened.isAfter(planned))
                            .min(Instant::compareTo)
                            .map(opened -> "; the next joined at " + situation.time(opened))
                            .orElse("");
        }
        String holder = busyWith()
                .map(run -> "run " + run.id() + " had its place until it ended")
                .orElse("");
        if (waitedForAPlace()) {
            return holder.isEmpty() ? "it waited for a place of its own, or of a key or limit that it shares" : holder;
        }
        return holder.isEmpty()
                ? "it waited for a worker, or its instance was slow: " + Situation.names(situation.servingAt(planned))
                        + " were alive"
                : holder;
    }

    private String notYet() {
        return situation
                .paused()
                .map(text -> text + "; it is decided about when the pause ends, and ifMissed is "
                        + Situation.word(version.job().ifMissed().choice()))
                .orElseGet(() -> situation.aliveAt(situation.now()).isEmpty()
                        ? "no instance is alive"
                        : "an instance will soon; brume why without --at says what is in the way");
    }

    /** Which instance had it before, and when that died. */
    private String takenOver() {
        return situation.runs().stream()
                .filter(run -> run.id() == line().run())
                .flatMap(run -> run.attempts().stream())
                .filter(attempt -> attempt.end().filter(AttemptEnd.LOST::equals).isPresent())
                .map(attempt -> "; attempt " + attempt.number() + " was lost with " + attempt.instance()
                        + situation
                                .session(attempt.session())
                                .map(session -> ", whose lease ended at " + situation.time(session.leaseUntil()))
                                .orElse(""))
                .collect(Collectors.joining());
    }

    private boolean waitedForAPlace() {
        return situation.runs().stream()
                .filter(run -> run.id() == line().run())
                .flatMap(run -> run.owed().note().stream())
                .anyMatch(note -> note.contains(RunRow.Owed.WAITED));
    }

    private String skipped() {
        String name = finding.reason().orElse("");
        String policy = Reason.named(name).map(this::skipped).orElseGet(() -> without(name));
        return policy + " (run " + line().run() + ")";
    }

    private String without(String reason) {
        return "did not run: " + line().outcome().map(Enum::name).orElse("") + " " + reason;
    }

    private String skipped(Reason reason) {
        return switch (reason) {
            case BUSY ->
                "was skipped: "
                        + busyWith().map(this::inTheWay).orElse("earlier runs were unfinished")
                        + ", and ifBusy is "
                        + Situation.word(version.job().ifBusy().choice());
            case DECIDED_LATE ->
                "was skipped: nobody decided about it when it fell due ("
                        + (situation.aliveAt(occurrence.instant()).isEmpty()
                                ? "no instance was alive"
                                : Situation.names(situation.aliveAt(occurrence.instant()))
                                        + " could not: the database was away, or a host slept")
                        + "); "
                        + busyWith()
                                .map(run -> "run " + run.id() + ", owed at "
                                        + situation.time(run.owed().planned()) + ", then began late, at "
                                        + situation.time(run.attempts().get(0).startedAt()))
                                .orElse("an earlier one then began late")
                        + ", and ifBusy is "
                        + Situation.word(version.job().ifBusy().choice());
            case TOO_MANY_WAITING ->
                "was skipped: as many waited as ifBusy allows, "
                        + version.job().ifBusy().bound();
            case TOO_LATE -> "was skipped: it could not begin within the time that its job allows";
            case NO_INSTANCE ->
                "was owed by each instance, and none that serves the lane "
                        + version.job().lane() + " was alive";
            case BY_HAND ->
                "was " + (line().outcome().filter(Outcome.CANCELLED::equals).isPresent() ? "cancelled" : "left out")
                        + " by an order (brume changes says whose)";
            case TURNED_DOWN -> "was turned down by a check before it started";
            default -> without(reason.name());
        };
    }

    private String inTheWay(RunView run) {
        String which =
                "run " + run.id() + " (planned " + situation.time(run.owed().planned()) + ") ";
        if (!run.attempts().isEmpty()) {
            return which + "was unfinished";
        }
        return which + "had the place and "
                + (run.outcome().isPresent() ? "had not begun" : "has not begun")
                + (situation.servingAt(occurrence.instant()).isEmpty()
                        ? ": nobody served the lane " + version.job().lane()
                        : WhoCould.run(version.job(), situation.aliveAt(occurrence.instant()))
                                .map(text -> ": " + text)
                                .orElse(": it waited for a worker"));
    }

    private String passedOver() {
        Span span = account.spans().stream()
                .filter(each -> !occurrence.instant().isBefore(each.from())
                        && occurrence.instant().isBefore(each.until()))
                .findFirst()
                .orElseThrow();
        if (!span.isCounted()) {
            return "was passed over with all others from " + situation.time(span.from()) + " to "
                    + situation.time(span.until())
                    + ", which nobody counted: the definition could not be computed then, or it was changed, dropped or resumed after"
                    + " so long that counting would have kept other jobs waiting";
        }
        String others = span.count() == 1
                ? ""
                : " with " + (span.count() - 1) + " others, from " + situation.time(span.first()) + " to "
                        + situation.time(span.last());
        boolean nobody = situation.aliveAt(occurrence.instant()).isEmpty();
        String why = span.reason().equals(Reason.PAUSED.name())
                ? "the job was paused"
                        + pausedThen.map(text -> " (" + text + ")").orElse("")
                : nobody
                        ? "no instance was alive at its time"
                        : "nobody planned it in time, though "
                                + Situation.names(situation.aliveAt(occurrence.instant()))
                                + " were alive by their leases: the database was away, a host slept, or a clock jumped";
        return "was passed over" + others + ": " + why + ", and ifMissed is "
                + Situation.word(version.job().ifMissed().choice());
    }

    /** The run that was unfinished when it was due. */
    private Optional<RunView> busyWith() {
        Instant planned = occurrence.instant();
        return situation.runs().stream()
                .filter(run -> run.owed().planned().isBefore(planned))
                .filter(run -> run.outcome().filter(Outcome.SKIPPED::equals).isEmpty())
                .filter(run -> run.state().filter(RunState.WAITING::equals).isEmpty())
                .filter(run -> run.attempts().isEmpty()
                        ? run.outcome().isEmpty()
                        : run.lastAttempt()
                                .flatMap(Attempt::endedAt)
                                .filter(end -> !end.isAfter(planned))
                                .isEmpty())
                .findFirst();
    }

    private List<Answer.Fact> facts() {
        List<Answer.Fact> facts = new ArrayList<>();
        facts.add(inForce(situation, version));
        String notes = occurrence.notes().isEmpty()
                ? ""
                : ", " + occurrence.notes().stream().map(Note::name).collect(Collectors.joining(", "));
        facts.add(new Answer.Fact(
                "occurrence",
                occurrence.nominal() + " " + occurrence.zone() + notes + ", verdict " + finding.verdict()));
        facts.add(new Answer.Fact("policies", WhyNow.policies(version.job())));
        facts.add(new Answer.Fact("alive then", Situation.names(situation.aliveAt(occurrence.instant()))));
        finding.line()
                .ifPresent(line -> situation.runs().stream()
                        .filter(run -> run.id() == line.run())
                        .flatMap(run -> run.attempts().stream())
                        .forEach(attempt -> facts.add(new Answer.Fact(
                                "attempt " + attempt.number(),
                                attempt(attempt),
                                Optional.of(attempt.startedAt()),
                                Optional.of(line.run())))));
        return facts;
    }

    private String attempt(Attempt attempt) {
        return "on " + attempt.instance() + " under fence " + attempt.fence() + " from "
                + situation.time(attempt.startedAt())
                + attempt.endedAt().map(end -> " to " + situation.time(end)).orElse("")
                + attempt.end().map(end -> ", " + end).orElse(", running")
                + attempt.error().map(error -> ": " + WhyNow.firstLine(error)).orElse("");
    }
}
