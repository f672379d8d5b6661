package dev.brume.cli;

import dev.brume.JobKey;
import dev.brume.duties.Settings;
import dev.brume.tally.Finding;
import dev.brume.tally.JobTally;
import dev.brume.tally.Tally;
import dev.brume.tally.Verdict;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.function.ToLongFunction;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Holds what was owed against what is on record. */
@Command(
        name = "tally",
        mixinStandardHelpOptions = true,
        description =
                "Computes what every schedule owed in a period, by the version of its definition in force at the time, and"
                        + " holds it against the ledger: on time, late, skipped, passed over, waiting, or unexplained.",
        footerHeading = "%nColumns:%n",
        footer = {
            "  OWED      occurrences in the period, up to now",
            "  ON TIME   began within the job's tolerance; LATE after it",
            "  SKIPPED   on record, did not run: busy, cancelled, turned down, too late",
            "  PASSED    passed over together: missed in an outage, or while paused",
            "  OPEN      waits for its time, a place or a worker, or is not planned yet",
            "  GONE      before what the ledger still keeps (brume keep); shown if there are any",
            "  UNEXPL.   nothing is on record, although it should be",
            "",
            "Exits with 1 if anything was missed or is unexplained, with 0 if all is in order.",
            "",
            "Examples:",
            "  brume tally --from 24h",
            "  brume tally --job harbour-dues --from 2026-11-01 --until 2026-12-01 --format json"
        })
final class TallyCommand implements Callable<Integer> {
    private static final int MOST_SHOWN = 10;

    @Option(names = "--job", paramLabel = "JOB", description = "Of this job alone: NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--report",
            paramLabel = "FILE",
            description =
                    "Also write a page to be printed, for an auditor, with all that is needed to compute it again.")
    private @Nullable Path report;

    @Mixin
    private PeriodOptions period;

    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    /** What was counted. */
    private record Counted(Instant from, Instant until, Instant at, List<JobTally> jobs) {
        long sum(ToLongFunction<JobTally> figure) {
            return jobs.stream().mapToLong(figure).sum();
        }

        boolean isClean() {
            return jobs.stream().allMatch(JobTally::isClean);
        }
    }

    @Override
    public Integer call() {
        Optional<JobKey> key = Optional.ofNullable(job).map(OrderOptions::key);
        Counted counted = options.look(history -> {
            PeriodOptions.Period asked = period.upTo(history.now(), look.viewerZone());
            Instant begin = asked.from();
            Instant end = asked.until();
            List<JobTally> jobs = new ArrayList<>();
            history.accounts(key, begin, end, account -> jobs.add(Tally.of(account, begin, end)));
            if (jobs.isEmpty() && key.isPresent()) {
                throw KnownJobs.missing(history, key.get());
            }
            jobs.sort(Comparator.comparing(JobTally::job).thenComparing(JobTally::id));
            return new Counted(begin, end, history.now(), jobs);
        });
        PrintWriter out = spec.commandLine().getOut();
        if (report != null) {
            write(report, counted);
        }
        if (look.json()) {
            out.println(JsonOut.pretty(json(counted)));
        } else {
            print(counted, out);
        }
        return counted.isClean() ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    private void write(Path report, Counted counted) {
        TallyReport page = TallyReport.of(
                counted.from,
                counted.until,
                sentence(counted),
                List.of(
                        new TallyReport.Fact(
                                "written",
                                counted.at + " by the database's clock, by " + System.getProperty("user.name")
                                        + ", with " + Version.text()),
                        new TallyReport.Fact("database", options.description()),
                        new TallyReport.Fact("zone rules", "time zone database " + Settings.ownTzdata())),
                counted.jobs.stream().filter(TallyCommand::isWorthALine).toList());
        try {
            Files.writeString(report, page.page());
        } catch (IOException e) {
            throw UsageException.unwritable("--report", report, e);
        }
        spec.commandLine().getErr().println("the report is in " + report);
    }

    // For people.

    private void print(Counted counted, PrintWriter out) {
        ZoneId zone = look.viewerZone();
        Table table = new Table(look.palette())
                .column("JOB", Math.max(18, look.width() - 66))
                .numbers("OWED")
                .numbers("ON TIME")
                .numbers("LATE")
                .numbers("SKIPPED")
                .numbers("PASSED")
                .numbers("OPEN");
        boolean gone = counted.sum(tally -> tally.count(Verdict.BEYOND_RETENTION)) > 0;
        if (gone) {
            table.numbers("GONE");
        }
        table.numbers("UNEXPL.");
        counted.jobs.stream()
                .filter(TallyCommand::isWorthALine)
                .forEach(tally -> table.row(row(name(tally), List.of(tally), gone)));
        table.row(row("in all", counted.jobs, gone));
        table.lines().forEach(out::println);
        out.println();
        Wrap.lines(
                        "owed from " + Times.withOffset(counted.from, zone) + " until "
                                + Times.withOffset(counted.until, zone) + ", each by the version in force at the time",
                        look.width(),
                        0)
                .forEach(line -> out.println(look.palette().faint(line)));
        out.println();
        counted.jobs.forEach(tally -> details(tally, zone, out));
        out.println();
        out.println(look.palette().bold(sentence(counted)));
    }

    private static boolean isWorthALine(JobTally tally) {
        return tally.expected() + tally.byEnds() + tally.ordered() > 0 || !tally.isClean();
    }

    private static String name(JobTally tally) {
        return tally.job() + (tally.dropped() ? " (dropped)" : "");
    }

    private static Object[] row(String name, List<JobTally> tallies, boolean gone) {
        List<Object> figures = new ArrayList<>(List.of(
                name,
                sum(tallies, JobTally::expected),
                sum(tallies, tally -> tally.count(Verdict.ON_TIME)),
                sum(tallies, tally -> tally.count(Verdict.LATE)),
                sum(tallies, tally -> tally.count(Verdict.SKIPPED)),
                sum(tallies, tally -> tally.count(Verdict.PASSED_OVER)),
                sum(tallies, tally -> tally.count(Verdict.WAITING) + tally.count(Verdict.NOT_YET))));
        if (gone) {
            figures.add(sum(tallies, tally -> tally.count(Verdict.BEYOND_RETENTION)));
        }
        figures.add(sum(tallies, tally -> tally.count(Verdict.UNEXPLAINED)));
        return figures.toArray();
    }

    private static long sum(List<JobTally> tallies, ToLongFunction<JobTally> figure) {
        return tallies.stream().mapToLong(figure).sum();
    }

    private static String sentence(Counted counted) {
        long unexplained = counted.sum(tally -> tally.count(Verdict.UNEXPLAINED));
        long missed = counted.sum(JobTally::missed);
        long gone = counted.sum(tally -> tally.count(Verdict.BEYOND_RETENTION));
        long wrong = counted.sum(tally -> tally.wrongSpans().size());
        return counted.sum(JobTally::expected) + " owed, " + counted.sum(JobTally::accounted) + " on record, "
                + counted.sum(tally -> tally.count(Verdict.NOT_YET)) + " not planned yet, "
                + (gone > 0 ? gone + " beyond retention, " : "") + missed
                + " missed, " + unexplained + " unexplained" + (wrong > 0 ? ", " + wrong + " spans are wrong" : "")
                + ".";
    }

    private void details(JobTally tally, ZoneId zone, PrintWriter out) {
        Palette palette = look.palette();
        List<String> lines = new ArrayList<>();
        tally.wrongSpans().forEach(text -> lines.add(palette.word("PROBLEM") + "  " + text));
        tally.listed(Verdict.UNEXPLAINED)
                .forEach(finding -> lines.add(palette.word("UNEXPLAINED") + "  " + at(finding, zone)
                        + ", owed by version " + finding.version() + ", and nothing is on record"));
        tally.listed(Verdict.LATE)
                .forEach(finding -> lines.add(palette.word("LATE") + "  " + at(finding, zone) + " began "
                        + Times.took(finding.late().orElseThrow()) + " late (run "
                        + finding.line().orElseThrow().run() + ")"));
        tally.unruled()
                .forEach(line -> lines.add(palette.word("NOT OWED") + "  "
                        + Times.withOffset(line.planned(), zone) + " is on record (run " + line.run()
                        + "), and no version's rules owe it"));
        List<String> counts = counts(tally);
        if (lines.isEmpty() && counts.isEmpty()) {
            return;
        }
        out.println(palette.bold(name(tally)) + (counts.isEmpty() ? "" : ": " + String.join("; ", counts)));
        lines.stream().limit(MOST_SHOWN).forEach(line -> out.println("  " + line));
        if (lines.size() > MOST_SHOWN) {
            out.println("  and " + (lines.size() - MOST_SHOWN) + " more (--format json lists them)");
        }
    }

    private List<String> counts(JobTally tally) {
        List<String> counts = new ArrayList<>();
        if (!tally.reasons().isEmpty()) {
            counts.add("did not run: " + reasons(tally));
        }
        if (tally.takenOver() > 0) {
            counts.add(tally.takenOver() + " whose instance died or left");
        }
        if (tally.byEnds() > 0) {
            counts.add(tally.byEnds() + " owed to the ends of runs before them, as the ledger has these");
        }
        if (tally.ordered() > 0) {
            counts.add(tally.ordered() + " ordered besides");
        }
        return counts;
    }

    private String reasons(JobTally tally) {
        List<String> parts = new ArrayList<>();
        tally.reasons()
                .forEach((reason, count) ->
                        parts.add(count + " " + look.palette().word(reason)));
        return String.join(", ", parts);
    }

    private static String at(Finding finding, ZoneId zone) {
        return Times.withOffset(finding.planned(), zone);
    }

    // For programs.

    private static Object json(Counted counted) {
        return JsonOut.object(
                "from", counted.from,
                "until", counted.until,
                "expected", counted.sum(JobTally::expected),
                "accounted", counted.sum(JobTally::accounted),
                "missed", counted.sum(JobTally::missed),
                "beyondRetention", counted.sum(tally -> tally.count(Verdict.BEYOND_RETENTION)),
                "unexplained", counted.sum(tally -> tally.count(Verdict.UNEXPLAINED)),
                "jobs", counted.jobs.stream().map(TallyCommand::json).toList());
    }

    private static Object json(JobTally tally) {
        return JsonOut.object(
                "job", tally.job(),
                "id", tally.id(),
                "dropped", tally.dropped(),
                "expected", tally.expected(),
                "accounted", tally.accounted(),
                "missed", tally.missed(),
                "onTime", tally.count(Verdict.ON_TIME),
                "late", tally.count(Verdict.LATE),
                "skipped", tally.count(Verdict.SKIPPED),
                "passedOver", tally.count(Verdict.PASSED_OVER),
                "waiting", tally.count(Verdict.WAITING),
                "notYet", tally.count(Verdict.NOT_YET),
                "beyondRetention", tally.count(Verdict.BEYOND_RETENTION),
                "unexplained", tally.count(Verdict.UNEXPLAINED),
                "latestMillis", tally.latest().toMillis(),
                "takenOver", tally.takenOver(),
                "byEnds", tally.byEnds(),
                "ordered", tally.ordered(),
                "outcomes", JsonOut.counts(tally.outcomes()),
                "reasons", JsonOut.counts(tally.reasons()),
                "wrongSpans", tally.wrongSpans(),
                "notOwed",
                        tally.unruled().stream()
                                .map(line -> JsonOut.object("run", line.run(), "planned", line.planned()))
                                .toList(),
                "lists", lists(tally));
    }

    private static Object lists(JobTally tally) {
        return JsonOut.object(
                "unexplained", findings(tally, Verdict.UNEXPLAINED),
                "late", findings(tally, Verdict.LATE),
                "skipped", findings(tally, Verdict.SKIPPED),
                "passedOver", findings(tally, Verdict.PASSED_OVER),
                "waiting", findings(tally, Verdict.WAITING),
                "notYet", findings(tally, Verdict.NOT_YET));
    }

    private static Object findings(JobTally tally, Verdict verdict) {
        return tally.listed(verdict).stream()
                .map(finding -> JsonOut.object(
                        "planned", finding.planned(),
                        "version", finding.version(),
                        "run", finding.line().map(line -> line.run()),
                        "lateMillis", finding.late().map(late -> late.toMillis()),
                        "reason", finding.reason()))
                .toList();
    }
}
