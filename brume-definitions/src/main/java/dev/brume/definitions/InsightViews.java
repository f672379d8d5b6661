package dev.brume.definitions;

import static dev.brume.definitions.Views.object;

import dev.brume.DefinitionSet;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Rate;
import dev.brume.history.Erasure;
import dev.brume.history.History;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import dev.brume.insight.diff.Shift;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.rehearsal.Damage;
import dev.brume.insight.rehearsal.Foresight;
import dev.brume.insight.rehearsal.Foresight.JobForesight;
import dev.brume.insight.rehearsal.Rehearsal;
import dev.brume.insight.seal.CheckedErasure;
import dev.brume.insight.seal.Removal;
import dev.brume.insight.seal.SealCheck;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.insight.tally.JobFigures;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.PeriodFigures;
import dev.brume.insight.tally.PeriodTally;
import dev.brume.insight.tally.RollUpCheck;
import dev.brume.insight.tally.TallyFigure;
import dev.brume.insight.tally.Verdict;
import dev.brume.insight.why.Answer;
import dev.brume.insight.why.Question;
import dev.brume.notice.Notice;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.WallClockSchedule;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/**
 * What is worked out from the record, in the vocabulary of {@link Views}: why, tally, figures, findings, differences, rehearsals, seals.
 *
 * @since 0.1.0
 */
public final class InsightViews {
    private InsightViews() {}

    /** {@return why a job runs or does not, or what became of an occurrence} */
    public static Map<String, Object> answer(JobName key, Answer answer) {
        return object(
                "job", key,
                "code", answer.code(),
                "answer", answer.sentence(),
                "at", answer.at(),
                "reason", answer.reason(),
                "runs", answer.runs().stream().map(String::valueOf).toList(),
                "facts",
                        answer.facts().stream()
                                .map(fact -> object(
                                        "name", fact.name(), "text", fact.text(), "at", fact.at(), "run", fact.run()))
                                .toList());
    }

    /** {@return what stood in the way of an occurrence that was skipped, as why says it; empty for other runs} */
    public static Optional<String> whySkipped(History history, RunView run) {
        boolean asked = run.outcome().filter(Outcome.SKIPPED::equals).isPresent()
                && (run.owed().origin() == Origin.SCHEDULE || run.owed().origin() == Origin.CATCH_UP);
        ZoneId zone = Zones.parse(run.owed().zone());
        return asked
                ? history.job(run.job())
                        .filter(view -> view.row().id() == run.owed().job())
                        .map(view -> new Question(
                                        history, view, history.now(), instant -> TimeText.withOffset(instant, zone))
                                .about(run.owed().planned())
                                .sentence())
                : Optional.empty();
    }

    /** {@return a run in full, with why it was skipped, if it was, and the erasure of its content, if there was one} */
    public static Map<String, Object> shown(RunView run, Optional<String> why, Optional<Erasure> erased) {
        Map<String, Object> view = Views.run(run);
        view.putAll(object(
                "why",
                why,
                "erased",
                erased.map(erasure -> object(
                        "at", erasure.at(),
                        "who", erasure.who(),
                        "because", erasure.because(),
                        "content", erasure.content().words()))));
        return view;
    }

    /** {@return what is wrong, and what to do about it} */
    public static Map<String, Object> checkup(Checkup.Result result) {
        return object(
                "database", result.product(),
                "jobs", result.jobs(),
                "instances", result.alive(),
                "findings",
                        result.findings().stream().map(InsightViews::finding).toList());
    }

    private static Map<String, Object> finding(Finding finding) {
        return object(
                "severity", finding.severity().name(),
                "topic", finding.topic(),
                "about", finding.about().isEmpty() ? null : finding.about(),
                "text", finding.text(),
                "advice", finding.advice().isEmpty() ? null : finding.advice());
    }

    /** {@return what a rehearsal came to, with the one it is compared to} */
    public static Map<String, Object> foresight(Foresight seen, Optional<Foresight> before) {
        Map<String, Object> map = foresight(seen);
        map.put("before", before.map(InsightViews::foresight).orElse(null));
        return map;
    }

    /** {@return what was foreseen while something goes wrong, and before a change if it was compared} */
    public static Map<String, Object> underTrouble(
            Rehearsal.UnderTrouble seen, Optional<Rehearsal.UnderTrouble> before) {
        Map<String, Object> map = foresight(seen.foresight(), before.map(Rehearsal.UnderTrouble::foresight));
        map.put("damage", damage(seen.damage()));
        map.put("damageBefore", before.map(each -> damage(each.damage())).orElse(null));
        return map;
    }

    private static Map<String, Object> damage(Damage damage) {
        return object(
                "missed", counts(damage.missed()),
                "lost", counts(damage.lost()),
                "takenOver", counts(damage.takenOver()),
                "failed", counts(damage.failed()),
                "deadlines",
                        damage.deadlines().entrySet().stream()
                                .map(each -> {
                                    Map<String, Object> kept = new LinkedHashMap<>(object("job", each.getKey()));
                                    kept.putAll(deadlines(each.getValue()));
                                    return kept;
                                })
                                .toList(),
                "told", damage.told().stream().map(InsightViews::rehearsed).toList());
    }

    /** {@return a notice that would have been told} */
    public static Map<String, Object> rehearsed(Notice notice) {
        return object(
                "at", notice.at(),
                "kind", notice.kind().word(),
                "channel", notice.channel(),
                "cause", notice.cause(),
                "title", notice.title());
    }

    private static Map<String, Object> foresight(Foresight seen) {
        return object(
                "from", seen.from(),
                "until", seen.until(),
                "jobs", seen.jobs().stream().map(InsightViews::foresight).toList(),
                "busiest",
                        seen.busiest().stream()
                                .map(minute -> object(
                                        "minute", minute.minute(),
                                        "begun", minute.begun(),
                                        "running", minute.running(),
                                        "jobs",
                                                minute.jobs().stream()
                                                        .map(JobName::toString)
                                                        .toList()))
                                .toList(),
                "lanes",
                        seen.lanes().stream()
                                .map(lane -> object(
                                        "lane", lane.lane(),
                                        "workers", lane.workers(),
                                        "most", lane.most(),
                                        "share", lane.share()))
                                .toList(),
                "touched",
                        seen.touched().stream()
                                .map(each -> object(
                                        "job",
                                        each.job(),
                                        "at",
                                        each.at(),
                                        "note",
                                        each.note().name()))
                                .toList());
    }

    private static Map<String, Object> foresight(JobForesight job) {
        return object(
                "job", job.name(),
                "runs", job.runs(),
                "busy", job.busy(),
                "skipped", job.skipped(),
                "passedOver", job.passedOver(),
                "waited", job.waited(),
                "lateMillis50", job.late().map(late -> late.p50().toMillis()),
                "lateMillis99", job.late().map(late -> late.p99().toMillis()),
                "latestMillis", job.latest().map(Duration::toMillis),
                "open", job.open(),
                "want", job.want());
    }

    /** {@return what definitions would change} */
    public static Map<String, Object> difference(DefinitionSet set, DefinitionDiff diff) {
        return object(
                "source", set.source(),
                "revision", set.revision().isPresent() ? set.revision().getAsLong() : null,
                "revisionInForce", diff.revision().isPresent() ? diff.revision().getAsLong() : null,
                "outdated", diff.isOutdated(set),
                "calendars",
                        diff.calendars().stream()
                                .map(each ->
                                        object("calendar", each.name(), "version", each.version(), "jobs", each.jobs()))
                                .toList(),
                "limits",
                        diff.limits().stream()
                                .map(each -> object(
                                        "limit",
                                        each.name(),
                                        "before",
                                        each.before(),
                                        "after",
                                        each.after(),
                                        "rateBefore",
                                        each.rateBefore().map(Rate::toString),
                                        "rateAfter",
                                        each.rateAfter().map(Rate::toString)))
                                .toList(),
                "notices",
                        diff.notices().stream()
                                .map(each -> object(
                                        each.channel() ? "channel" : "rule",
                                        each.name(),
                                        "kind",
                                        each.kind().name()))
                                .toList(),
                "jobs", diff.jobs().stream().map(InsightViews::difference).toList(),
                "notAllowed", diff.notAllowed());
    }

    /** {@return what would become of a job} */
    public static Map<String, Object> difference(JobDiff job) {
        return object(
                "job", job.name(),
                "kind", job.kind().name(),
                "version", job.version(),
                "movesFrom", job.movesFrom(),
                "difference", job.lines(),
                "shift", job.shift().map(InsightViews::shift));
    }

    private static Map<String, Object> shift(Shift shift) {
        return object(
                "from", shift.from(),
                "until", shift.until(),
                "before", shift.before(),
                "after", shift.after(),
                "gone", shift.gone().stream().map(InsightViews::instant).toList(),
                "added", shift.added().stream().map(InsightViews::instant).toList());
    }

    private static String instant(Occurrence occurrence) {
        Instant at = occurrence.instant();
        return at.toString();
    }

    /** {@return what was owed in a period, held against what is on record} */
    public static Map<String, Object> tally(PeriodTally counted) {
        Map<String, Object> all = new LinkedHashMap<>(object("from", counted.from(), "until", counted.until()));
        all.putAll(columns(counted.jobs()));
        all.putAll(object(
                "sentence", counted.sentence(),
                "isClean", counted.isClean(),
                "onRecord", counted.sum(JobTally::accounted),
                "missed", counted.sum(tally -> tally.count(Verdict.MISSED)),
                "jobs",
                        counted.jobs().stream()
                                .map(job -> tally(job, counted.deadlines(job)))
                                .toList()));
        return all;
    }

    private static Map<String, Object> columns(List<JobTally> tallies) {
        Map<String, Object> figures = new LinkedHashMap<>();
        for (TallyFigure figure : TallyFigure.values()) {
            figures.put(figure.word(), figure.sum(tallies));
        }
        return figures;
    }

    private static Map<String, Object> deadlines(DeadlineTally kept) {
        return object(
                "due", kept.due(),
                "missed", kept.missed(),
                "listed",
                        kept.listed().stream()
                                .map(each -> object(
                                        "planned", each.planned(),
                                        "deadline", each.deadline(),
                                        "run", each.run(),
                                        "ended", each.ended()))
                                .toList());
    }

    private static Object tally(JobTally tally, Optional<DeadlineTally> deadlines) {
        Map<String, Object> all =
                new LinkedHashMap<>(object("job", tally.job(), "id", tally.id(), "dropped", tally.dropped()));
        all.putAll(columns(List.of(tally)));
        all.putAll(object(
                "isClean", tally.isClean(),
                "onRecord", tally.accounted(),
                "cancelled", tally.began(Outcome.CANCELLED),
                "running", tally.running(),
                "latestMillis", tally.latest().toMillis(),
                "takenOver", tally.takenOver(),
                "deadlines", deadlines.map(InsightViews::deadlines),
                "byEnds", tally.byEnds(),
                "ordered", tally.ordered(),
                "outcomes", counts(tally.outcomes()),
                "reasons", counts(tally.reasons()),
                "wrongSpans", tally.wrongSpans(),
                "notOwed",
                        tally.unruled().stream()
                                .map(line -> object("run", line.run(), "planned", line.planned()))
                                .toList(),
                "lists", lists(tally)));
        return all;
    }

    private static Object lists(JobTally tally) {
        return object(
                "unexplained", findings(tally, Verdict.UNEXPLAINED),
                "late", findings(tally, Verdict.LATE),
                "skipped", findings(tally, Verdict.SKIPPED),
                "missed", findings(tally, Verdict.MISSED),
                "paused", findings(tally, Verdict.PAUSED),
                "waiting", findings(tally, Verdict.WAITING),
                "notYet", findings(tally, Verdict.NOT_YET));
    }

    private static Object findings(JobTally tally, Verdict verdict) {
        return tally.listed(verdict).stream()
                .map(finding -> object(
                        "planned", finding.planned(),
                        "version", finding.version(),
                        "run", finding.line().map(line -> line.run()),
                        "lateMillis", finding.late().map(late -> late.toMillis()),
                        "reason", finding.reason()))
                .toList();
    }

    /** {@return of which hours and days the sums are not those of the lines} */
    public static Map<String, Object> sumsChecked(
            Instant from, Instant until, List<RollUpCheck.Difference> differences) {
        return object(
                "from", from,
                "until", until,
                "wrong",
                        differences.stream()
                                .map(each -> object(
                                        "job", each.job(),
                                        "from", each.from(),
                                        "inSums", each.inSums(),
                                        "inLines", each.inLines()))
                                .toList());
    }

    /** {@return how runs of a period went} */
    public static Map<String, Object> figures(PeriodFigures figures) {
        return object(
                "from", figures.from(),
                "until", figures.until(),
                "jobs", figures.jobs().stream().map(InsightViews::figures).toList());
    }

    private static Object figures(PeriodFigures.OfJob line) {
        return object(
                "job", line.job(),
                "id", line.id(),
                "outcomes", counts(line.figures().outcomes()),
                "live", line.figures().live(),
                "successShare", line.figures().successShare(),
                "successShareBefore", JobFigures.successShare(line.before().outcomes()),
                "tookMillis", line.figures().took().map(InsightViews::percentiles),
                "tookMillisMean", line.figures().meanTook().map(Duration::toMillis),
                "tookMillisMeanBefore", line.before().took().map(Duration::toMillis),
                "lateMillis", line.figures().late().map(InsightViews::percentiles),
                "silenceSeconds", line.figures().silence().map(Duration::toSeconds),
                "deadlines", line.deadlines().map(InsightViews::deadlines));
    }

    private static Object percentiles(JobFigures.Percentiles percentiles) {
        return object(
                "p50", percentiles.p50().toMillis(),
                "p90", percentiles.p90().toMillis(),
                "p99", percentiles.p99().toMillis());
    }

    /** Counts by name, in the order given. */
    private static Map<String, Object> counts(Map<?, Long> counts) {
        Map<String, Object> map = new LinkedHashMap<>();
        counts.forEach((name, count) -> map.put(name.toString(), count));
        return map;
    }

    /**
     * {@return what a schedule or a job's schedules do, and how each field was understood}
     *
     * @param next how many of the next occurrences are told
     */
    public static Map<String, Object> explained(Subject subject, Instant now, int next) {
        List<Map<String, Object>> occurrences = subject.between(now, Instant.MAX)
                .limit(next)
                .map(occurrence -> Views.occurrence(occurrence))
                .toList();
        Map<String, Object> plain = object(
                "words", subject.words(),
                "schedules",
                        subject.schedules().stream().map(InsightViews::schedule).toList(),
                "next", occurrences);
        return named(subject.name(), plain);
    }

    private static Map<String, Object> schedule(Schedule schedule) {
        Schedule rule = schedule.rule();
        Map<String, Object> map = object(
                "rule", rule.toString(),
                "words", schedule.words(),
                "zone", schedule.zone().getId());
        if (rule instanceof WallClockSchedule local) {
            map.put("gap", lower(local.clock().gap()));
            map.put("fold", lower(local.clock().fold()));
        }
        if (rule instanceof CronSchedule cron) {
            map.put("days", lower(cron.days()));
            map.put(
                    "fields",
                    cron.fields().stream()
                            .map(field -> object("name", field.name(), "text", field.text(), "values", field.values()))
                            .toList());
        }
        return map;
    }

    /** Puts the job first, if it is about one. */
    private static Map<String, Object> named(String job, Map<String, Object> rest) {
        if (job.isEmpty()) {
            return rest;
        }
        Map<String, Object> named = object("job", job);
        named.putAll(rest);
        return named;
    }

    private static String lower(Enum<?> constant) {
        return constant.name().toLowerCase(Locale.ROOT);
    }

    /** {@return where sealing stands} */
    public static Map<String, Object> sealHead(SealHead head) {
        return object("number", head.number(), "digest", head.digest());
    }

    /** {@return whether all is as it was sealed} */
    public static Map<String, Object> sealCheck(SealCheck.Result result) {
        return object(
                "problem", result.problem(),
                "seals", result.seals(),
                "lines", result.count(SealedKind.LINE),
                "changes", result.count(SealedKind.CHANGE),
                "spans", result.count(SealedKind.SPAN),
                "definitions", result.count(SealedKind.DEFINITION),
                "removed", result.removed(),
                "unsealed", result.unsealed(),
                "removals", result.removals().stream().map(InsightViews::sealed).toList(),
                "erasures", result.erasures().stream().map(InsightViews::sealed).toList(),
                "head", result.head().number() + ":" + result.head().digest());
    }

    private static Object sealed(Removal removal) {
        return object(
                "line", removal.line().id(),
                "at", removal.line().at(),
                "job", removal.line().change().job(),
                "who", removal.line().change().who(),
                "host", removal.line().change().host(),
                "text", removal.line().change().text(),
                "doubt", removal.doubt());
    }

    private static Object sealed(CheckedErasure checked) {
        return object(
                "run", checked.erasure().run(),
                "at", checked.erasure().at(),
                "who", checked.erasure().who(),
                "because", checked.erasure().because(),
                "erased", checked.erasure().content().words(),
                "doubt", checked.doubt());
    }
}
