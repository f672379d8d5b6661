package dev.brume.http.internal.page;

import dev.brume.Outcome;
import dev.brume.definitions.JsonText;
import dev.brume.history.JobAccount;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.PeriodTally;
import dev.brume.insight.tally.TallyLine;
import dev.brume.insight.tally.Verdict;
import dev.brume.internal.document.JobDocument;
import dev.brume.schedule.Durations;
import gg.jte.ContentType;
import gg.jte.TemplateEngine;
import gg.jte.output.StringOutput;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.ToLongFunction;
import java.util.stream.Stream;

/**
 * A tally as a page to be printed, with all that is needed to compute it again.
 *
 * @param from inclusive
 * @param until exclusive
 * @param sentence what it comes to
 * @param facts about the report itself
 * @param rows one for each job
 * @param total the sums
 * @param jobs the jobs one by one
 * @param queries what reads the record of a job, in SQL
 */
public record TallyReport(
        Instant from,
        Instant until,
        String sentence,
        List<Fact> facts,
        List<Row> rows,
        List<String> total,
        List<JobPart> jobs,
        String queries) {
    private static final List<Column> COLUMNS = List.of(
            new Column("Owed", JobTally::expected),
            new Column("On time", tally -> tally.count(Verdict.ON_TIME)),
            new Column("Late", tally -> tally.count(Verdict.LATE)),
            new Column("Skipped", tally -> tally.count(Verdict.SKIPPED)),
            new Column("Missed", tally -> tally.count(Verdict.MISSED)),
            new Column("Paused", tally -> tally.count(Verdict.PAUSED)),
            new Column("Open", JobTally::open),
            new Column("Beyond retention", tally -> tally.count(Verdict.BEYOND_RETENTION)),
            new Column("Unexplained", tally -> tally.count(Verdict.UNEXPLAINED)),
            new Column("Succeeded", tally -> tally.began(Outcome.SUCCEEDED)),
            new Column("Failed", JobTally::failed),
            new Column("Lost", tally -> tally.began(Outcome.LOST)));
    private static final List<Verdict> LISTED = List.of(
            Verdict.UNEXPLAINED,
            Verdict.LATE,
            Verdict.SKIPPED,
            Verdict.MISSED,
            Verdict.PAUSED,
            Verdict.WAITING,
            Verdict.NOT_YET,
            Verdict.ON_TIME);

    private record Column(String name, ToLongFunction<JobTally> figure) {}

    /** Something about the report or a job. */
    public record Fact(String name, String text) {}

    /** A job's figures. */
    public record Row(String name, List<String> figures, boolean clean) {}

    /** A version of a definition. */
    public record Version(int number, String since, String words, String definition) {}

    /** What came to one verdict. */
    public record Findings(String title, List<Line> lines, String more) {}

    /** One occurrence. */
    public record Line(String planned, int version, String run, String began, String reason) {}

    /** A job by itself. */
    public record JobPart(String name, List<Fact> facts, List<Findings> lists, List<Version> versions) {}

    /** {@return the page of a tally, with facts about the page itself} */
    public static TallyReport of(PeriodTally tally, Map<String, String> facts) {
        List<JobTally> tallies =
                tally.jobs().stream().filter(TallyReport::isWorthALine).toList();
        return new TallyReport(
                tally.from(),
                tally.until(),
                tally.sentence(),
                facts.entrySet().stream()
                        .map(each -> new Fact(each.getKey(), each.getValue()))
                        .toList(),
                tallies.stream()
                        .map(job -> new Row(name(job), figures(List.of(job)), job.isClean()))
                        .toList(),
                figures(tallies),
                tallies.stream().map(job -> job(job, tally.deadlines(job))).toList(),
                queries(tally.from(), tally.until()));
    }

    private static boolean isWorthALine(JobTally tally) {
        return tally.expected() + tally.byEnds() + tally.ordered() > 0 || !tally.isClean();
    }

    /** {@return the names of the columns} */
    public List<String> columns() {
        return COLUMNS.stream().map(Column::name).toList();
    }

    private static List<String> figures(List<JobTally> tallies) {
        return COLUMNS.stream()
                .map(column ->
                        Long.toString(tallies.stream().mapToLong(column.figure).sum()))
                .toList();
    }

    private static String name(JobTally tally) {
        return tally.job() + (tally.dropped() ? " (dropped)" : "");
    }

    private static JobPart job(JobTally tally, Optional<DeadlineTally> deadlines) {
        List<Fact> facts = new ArrayList<>();
        facts.add(new Fact("id", Long.toString(tally.id())));
        facts.add(new Fact("decided up to", tally.cursor().toString()));
        if (tally.keptFrom().isAfter(Instant.EPOCH)) {
            facts.add(new Fact("kept from", tally.keptFrom().toString()));
        }
        tally.reasons().forEach((reason, count) -> facts.add(new Fact("did not run", count + " " + reason)));
        deadlines.ifPresent(kept -> {
            facts.add(new Fact("deadlines", kept.missed() + " of " + kept.due() + " missed"));
            kept.listed().forEach(each -> facts.add(new Fact("deadline missed", words(each))));
        });
        if (tally.takenOver() > 0) {
            facts.add(new Fact("taken over", tally.takenOver() + " whose instance died or left"));
        }
        if (tally.byEnds() > 0) {
            facts.add(new Fact("by ends", tally.byEnds() + " owed to the ends of runs before them"));
        }
        if (tally.ordered() > 0) {
            facts.add(new Fact("ordered", tally.ordered() + " besides"));
        }
        tally.wrongSpans().forEach(text -> facts.add(new Fact("wrong", text)));
        tally.unruled()
                .forEach(line -> facts.add(new Fact(
                        "not owed", "run " + line.run() + ", planned " + line.planned() + ", by no version's rules")));
        return new JobPart(
                name(tally),
                facts,
                LISTED.stream()
                        .filter(verdict -> tally.count(verdict) > 0)
                        .map(verdict -> findings(tally, verdict))
                        .toList(),
                tally.versions().stream().map(TallyReport::version).toList());
    }

    private static String words(DeadlineTally.Missed missed) {
        return missed.deadline() + ", of " + missed.planned()
                + missed.run().map(run -> ", run " + run).orElse("")
                + missed.ended().map(end -> ", which ended " + end).orElse(", which had not ended well by then");
    }

    private static Findings findings(JobTally tally, Verdict verdict) {
        List<TallyLine> listed = tally.listed(verdict);
        long more = tally.count(verdict) - listed.size();
        String title = verdict.name().charAt(0)
                + verdict.name().substring(1).toLowerCase(Locale.ROOT).replace('_', ' ');
        return new Findings(
                title + ": " + tally.count(verdict),
                listed.stream().map(TallyReport::line).toList(),
                more > 0 ? "and " + more + " more; a shorter period or --job lists them" : "");
    }

    private static Line line(TallyLine finding) {
        return new Line(
                finding.planned().toString(),
                finding.version(),
                finding.line().map(line -> Long.toString(line.run())).orElse(""),
                finding.late().map(late -> Durations.about(late) + " after it").orElse(""),
                finding.reason().orElse(""));
    }

    private static Version version(JobAccount.Version version) {
        return new Version(
                version.number(),
                "in force after " + version.after(),
                version.job().scheduleInWords(),
                JsonText.pretty(JobDocument.shown(version.job())));
    }

    private static String queries(Instant from, Instant until) {
        String period = "planned_at >= timestamp '" + from + "' and planned_at < timestamp '" + until + "'";
        return String.join(
                "\n",
                Stream.of(
                                "-- id: the job's, as above",
                                "select planned_at, slot, run_id, outcome, reason, attempt, instance, fence, started_at, ended_at, earlier",
                                "  from brume_ledger where job_id = :id and origin in ('SCHEDULE', 'CATCH_UP')",
                                "  and " + period + " order by planned_at, slot;",
                                "select planned_at, slot, id, state from brume_run where job_id = :id and origin in ('SCHEDULE', 'CATCH_UP')",
                                "  and " + period + " order by planned_at, slot;",
                                "select from_at, until_at, version, first_at, last_at, occurrences, reason from brume_span",
                                "  where job_id = :id order by from_at;",
                                "select number, defined_at, definition, pins, tzdata from brume_definition where job_id = :id order by number;",
                                "select cursor_at from brume_job where id = :id;",
                                "select max(kept_from) from brume_keep where job_id in (0, :id);")
                        .toList());
    }

    /** {@return the page} */
    public String page() {
        TemplateEngine engine = TemplateEngine.createPrecompiled(
                null, ContentType.Html, TallyReport.class.getClassLoader(), TallyReport.class.getPackageName());
        StringOutput page = new StringOutput(64 * 1024);
        engine.render("tally.jte", this, page);
        return page.toString();
    }
}
