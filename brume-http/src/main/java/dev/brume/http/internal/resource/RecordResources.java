package dev.brume.http.internal.resource;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.definitions.ExportCursor;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.RecordExport;
import dev.brume.definitions.TimeText;
import dev.brume.definitions.Views;
import dev.brume.history.ChangeFilter;
import dev.brume.http.TallyPage;
import dev.brume.http.internal.resource.Shared.Period;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.rehearsal.Present;
import dev.brume.insight.seal.SealCheck;
import dev.brume.insight.tally.PeriodFigures;
import dev.brume.insight.tally.PeriodTally;
import java.io.BufferedWriter;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** The record: what was changed, what was owed and what became of it, what is wrong, what is sealed; and all of it to take away. */
final class RecordResources {
    private static final Duration A_DAY = Duration.ofDays(1);
    private static final Duration A_WEEK = Duration.ofDays(7);
    private static final Param<String> KIND = Param.text("kind", "Only changes of this kind.", 60, "DEFINED");
    private static final Param<String> WHO = Param.text("who", "Only changes by this user or instance.", 200, "office");
    private static final Param<Long> BELOW =
            new Param<>("below", "Only lines below this one.", Map.of("type", "integer"), 120, Param::id);
    private static final Param<ZoneId> ZONE =
            Param.zone("zone", "The zone in which sentences tell times; UTC unless given.");
    private static final Param<SealCheck.Kept> HEAD = new Param<>(
            "head",
            "A head that was kept elsewhere, N:DIGEST.",
            Map.of("type", "string", "pattern", "^\\d{1,18}:[0-9a-f]{64}$"),
            "",
            RecordResources::head);
    private static final Param<RecordExport.Form> FORMAT =
            Param.word("format", "In which form; JSONL unless given.", RecordExport.Form.values());
    private static final Param<String> AFTER = Param.text(
            "after", "Goes on where an earlier export ended: as the trailer Brume-Cursor said.", 4000, "ledger:120");

    private static final Param<Duration> MEASURED =
            Param.duration("measured", "Of runs of so long back; 7d unless given.", Duration.ofDays(90));
    private static final Param<Boolean> LINE_BY_LINE =
            Param.flag("lineByLine", "Whether every line is read, rather than what they are summed up to by the hour.");
    private static final Param<Integer> LINES =
            Param.number("limit", "How many lines at most; all unless given.", 1, 1_000_000, 1000);

    private RecordResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get(
                                "/changes",
                                "listChanges",
                                "Lists who changed or ordered what, when, from where and why; newest first.")
                        .takes(
                                Shared.NAMESPACE,
                                Shared.JOB,
                                KIND,
                                WHO,
                                Shared.FROM,
                                Shared.UNTIL,
                                BELOW,
                                Pages.LIMIT,
                                Pages.CURSOR,
                                Pages.FIELDS)
                        .answers(Answer.listOf("Lines of the change log.", "change"))
                        .by(RecordResources::changes),
                Operation.get("/tally", "tally", "Holds what was owed in a period against what is on record.")
                        .says("Of the last day unless a period is given.")
                        .takes(Shared.NAMESPACE, Shared.JOB, Shared.FROM, Shared.UNTIL, LINE_BY_LINE)
                        .answers(Answer.of("The tally.", "tally"))
                        .by(RecordResources::tally),
                Operation.get(
                                "/tally/report",
                                "tallyReport",
                                "Writes the tally as a page to be printed, for an auditor, with all that is needed to compute it again.")
                        .says("Every line of the ledger is read.")
                        .takes(Shared.NAMESPACE, Shared.JOB, Shared.FROM, Shared.UNTIL)
                        .answers(Answer.text("The page.", "text/html"))
                        .by(RecordResources::report),
                Operation.get("/figures", "listFigures", "Says how runs went in a period, job by job.")
                        .says("Of the last week unless a period is given.")
                        .takes(Shared.NAMESPACE, Shared.JOB, Shared.FROM, Shared.UNTIL, LINE_BY_LINE)
                        .answers(Answer.of("The figures.", "stats"))
                        .by(RecordResources::figures),
                Operation.get(
                                "/durations",
                                "listDurations",
                                "Says how long the last runs of each job took, for a rehearsal.")
                        .says("At most 200 of each job, in the order of their planned times.")
                        .takes(MEASURED)
                        .answers(Answer.listOf("The durations of each job, as ISO 8601 has them.", "durations"))
                        .by(RecordResources::durations),
                Operation.get("/findings", "listFindings", "Says what is wrong, and what to do about it.")
                        .everywhere()
                        .takes(ZONE)
                        .answers(Answer.of("What was found.", "doctor"))
                        .by(RecordResources::findings),
                Operation.get(
                                "/seals/head",
                                "readSealHead",
                                "Reads the newest seal's number and digest, to be kept elsewhere.")
                        .everywhere()
                        .answers(Answer.of("The head; number 0 if nothing is sealed.", "seal-head"))
                        .by(call ->
                                Reply.json(InsightViews.sealHead(call.history().sealHead()))),
                Operation.of("POST", "/seals", "seal", "Seals all that is on record and not sealed yet.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(Map.of())
                        .answers(Answer.of("The head.", "seal-head"))
                        .by(call -> {
                            call.body();
                            call.check();
                            return Reply.json(
                                    InsightViews.sealHead(call.orders().seal()));
                        }),
                Operation.get(
                                "/seals/verification",
                                "verifySeals",
                                "Computes all seals again, and names the first line that was altered since.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .takes(HEAD)
                        .answers(Answer.of("What was found.", "seal-verify"))
                        .by(call -> Reply.json(InsightViews.sealCheck(SealCheck.of(call.history(), call.get(HEAD))))),
                export(
                        "ledger",
                        RecordExport.What.LEDGER,
                        "Writes out ended runs, line by line in the order of their numbers."),
                export(
                        "changes",
                        RecordExport.What.CHANGES,
                        "Writes out the change log, line by line in the order of its numbers."));
    }

    private static Operation export(String name, RecordExport.What what, String title) {
        return Operation.get("/exports/" + name, "export" + (name.equals("ledger") ? "Ledger" : "Changes"), title)
                .says(
                        "The answer is written as it is read, a page at a time. The trailer Brume-Cursor says where to go on.")
                .everywhere()
                .takes(FORMAT, AFTER, LINES)
                .answers(Answer.text("The lines: JSON Lines, or CSV as RFC 4180 has it.", "application/jsonl"))
                .by(call -> export(call, what));
    }

    private static SealCheck.Kept head(String text) {
        if (!text.matches("\\d{1,18}:[0-9a-f]{64}")) {
            throw new IllegalArgumentException("is no head (expected N:DIGEST, as it was told)");
        }
        int colon = text.indexOf(':');
        return new SealCheck.Kept(Long.parseLong(text.substring(0, colon)), text.substring(colon + 1));
    }

    private static Reply changes(Call call) {
        ChangeFilter filter = ChangeFilter.newest(Pages.limit(call) + 1)
                .within(call.namespaces(call.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(Shared.JOB).map(filter::of).orElse(filter);
        filter = call.get(KIND).map(filter::withKind).orElse(filter);
        filter = call.get(WHO).map(filter::by).orElse(filter);
        filter = call.get(Shared.FROM).map(filter::from).orElse(filter);
        filter = call.get(Shared.UNTIL).map(filter::until).orElse(filter);
        Optional<Long> before = Pages.cursor(call, Long::valueOf).or(() -> call.get(BELOW));
        filter = before.map(filter::before).orElse(filter);
        return Pages.reply(call, call.history().changes(filter), Views::change, view -> String.valueOf(view.id()));
    }

    /** The one job that is asked about, if one is, and there is one to be seen. */
    private static Optional<JobName> job(Call call) {
        call.get(Shared.JOB).ifPresent(name -> {
            if (!call.caller().may(Role.VIEWER, name.namespace())) {
                throw new Problem(Problem.Kind.NOT_THERE, "there is no job '" + name + "'");
            }
        });
        return call.get(Shared.JOB);
    }

    private static boolean isSeen(Call call, JobName name) {
        return call.caller().may(Role.VIEWER, name.namespace())
                && call.get(Shared.NAMESPACE)
                        .filter(own -> !own.equals(name.namespace()))
                        .isEmpty();
    }

    private static Reply tally(Call call) {
        return Reply.json(InsightViews.tally(tally(call, call.get(LINE_BY_LINE).orElse(false))));
    }

    private static Reply report(Call call) {
        PeriodTally tally = tally(call, /* lineByLine= */ true);
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put(
                "written",
                tally.at() + " by the database's clock, for " + call.caller().name());
        facts.put("asked for at", call.incoming().base() + "/api/v1/tally/report");
        facts.put("zone rules", "time zone database " + Checkup.of(call.brume()).tzdata());
        return Reply.of(200, "text/html", TallyPage.of(tally, facts))
                .with("Content-Disposition", "attachment; filename=\"tally.html\"");
    }

    private static PeriodTally tally(Call call, boolean lineByLine) {
        Period period = Period.of(call, A_DAY);
        return PeriodTally.of(call.history(), job(call), period.from(), period.until(), lineByLine)
                .only(each -> isSeen(call, each.job()));
    }

    private static Reply figures(Call call) {
        Period period = Period.of(call, A_WEEK);
        PeriodFigures all = PeriodFigures.of(
                call.history(),
                job(call),
                period.from(),
                period.until(),
                call.get(LINE_BY_LINE).orElse(false));
        return Reply.json(InsightViews.figures(new PeriodFigures(
                all.from(),
                all.until(),
                all.jobs().stream().filter(each -> isSeen(call, each.job())).toList())));
    }

    private static Reply durations(Call call) {
        Map<JobName, List<Duration>> took =
                new TreeMap<>(Present.took(call.history(), call.get(MEASURED).orElse(A_WEEK)));
        took.keySet().removeIf(name -> !isSeen(call, name));
        return Reply.json(took.entrySet().stream()
                .map(each -> Views.object(
                        "job",
                        each.getKey(),
                        "took",
                        each.getValue().stream().map(Duration::toString).toList()))
                .toList());
    }

    private static Reply findings(Call call) {
        ZoneId zone = call.get(ZONE).orElse(ZoneId.of("UTC"));
        Checkup usual = Checkup.of(call.brume());
        return Reply.json(InsightViews.checkup(
                new Checkup(usual.history(), usual.wall(), usual.tzdata(), at -> TimeText.withOffset(at, zone))
                        .look()));
    }

    private static Reply export(Call call, RecordExport.What what) {
        RecordExport.Form form = call.get(FORMAT).orElse(RecordExport.Form.JSONL);
        ExportCursor begin =
                call.get(AFTER).map(text -> cursor(text, what)).orElseGet(() -> ExportCursor.beginning(what.word()));
        long most = call.get(LINES).map(Long::valueOf).orElse(Long.MAX_VALUE);
        String type = form == RecordExport.Form.CSV ? "text/csv; header=present" : "application/jsonl";
        return Reply.streamed(type, out -> {
                    Writer writer = new BufferedWriter(new OutputStreamWriter(out, StandardCharsets.UTF_8), 1 << 16);
                    ExportCursor end = RecordExport.write(what, form, call::history, begin, most, writer);
                    return Map.of("Brume-Cursor", end.toString());
                })
                .with("Trailer", "Brume-Cursor")
                .with(
                        "Content-Disposition",
                        "attachment; filename=\"" + what.word()
                                + (form == RecordExport.Form.CSV ? ".csv\"" : ".jsonl\""));
    }

    private static ExportCursor cursor(String text, RecordExport.What what) {
        try {
            return ExportCursor.parse(text, what.word());
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter(AFTER.name(), String.valueOf(e.getMessage()));
        }
    }
}
