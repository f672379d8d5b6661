package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.cli.desk.Seen;
import dev.brume.definitions.JsonText;
import dev.brume.insight.tally.TallyFigure;
import dev.brume.schedule.Durations;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
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
                        + " holds it against the ledger: what began on time or late, what did not run, what waits, what is"
                        + " unexplained; and how those that began ended.",
        footerHeading = "%nColumns:%n",
        footer = {
            "  OWED       occurrences in the period, up to now; the columns up to SUCCEEDED add up to it",
            "  ON TIME    began within the job's tolerance; LATE after it",
            "  SKIPPED    did not run for a reason on record: busy, cancelled, turned down",
            "  MISSED     did not run because nobody could run it in time",
            "  PAUSED     did not run because the job was paused",
            "  OPEN       waits for its time, a place or a worker, or is not planned yet",
            "  GONE       before what the ledger still keeps (brume keep)",
            "  UNEXPL.    nothing is on record, although it should be",
            "  SUCCEEDED  of those that began; FAILED, with those that overstepped their time limit; LOST",
            "             with their instance",
            "SKIPPED, PAUSED, GONE, UNEXPL. and LOST are shown if there are any.",
            "",
            "Exits with 1 if anything was missed or is unexplained, with 0 if all is in order. With --strict also with 1 if"
                    + " anything failed or was lost.",
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

    @Option(
            names = "--line-by-line",
            description =
                    "Read every line of the ledger, rather than what they were summed up to by the hour: what is said is the"
                            + " same, and it takes longer.")
    private boolean lineByLine;

    @Option(names = "--strict", description = "Exits with 1 for runs that failed or were lost, too.")
    private boolean strict;

    @Mixin
    private PeriodOptions period;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        Optional<JobName> key = Optional.ofNullable(job).map(OrderOptions::key);
        Seen counted = options.ask(at -> {
            PeriodOptions.Period asked = period.upTo(at.history().now(), look.viewerZone());
            // An auditor's page says that each line was looked at, and so it is.
            Seen tally = at.tally(key, asked.from(), asked.until(), lineByLine || report != null);
            if (tally.list("jobs").isEmpty() && key.isPresent()) {
                throw KnownJobs.missing(at.history(), key.get());
            }
            return tally;
        });
        PrintWriter out = spec.commandLine().getOut();
        if (report != null) {
            write(report, key, counted.instant("from"), counted.instant("until"));
        }
        if (look.json()) {
            out.println(JsonText.pretty(counted.whole()));
        } else {
            print(counted, out);
        }
        boolean well = counted.number(TallyFigure.FAILED.word()) + counted.number(TallyFigure.LOST.word()) == 0;
        return counted.flag("isClean") && (well || !strict) ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    private void write(Path report, Optional<JobName> key, Instant from, Instant until) {
        String page = options.ask(at ->
                at.tallyPage(key, from, until, System.getProperty("user.name"), Version.text(), options.description()));
        try {
            Files.writeString(report, page);
        } catch (IOException e) {
            throw UsageException.unwritable("--report", report, e);
        }
        spec.commandLine().getErr().println("the report is in " + report);
    }

    // For people.

    private void print(Seen counted, PrintWriter out) {
        ZoneId zone = look.viewerZone();
        List<Seen> jobs = counted.list("jobs");
        Table table = new Table(look).column("JOB").fold();
        List<TallyFigure> columns = Arrays.stream(TallyFigure.values())
                .filter(figure -> ALWAYS_SHOWN.contains(figure) || counted.number(figure.word()) > 0)
                .toList();
        columns.forEach(column -> table.numbers(heading(column)));
        jobs.stream().filter(TallyCommand::isWorthALine).forEach(tally -> table.row(row(name(tally), tally, columns)));
        table.row(row("in all", counted, columns));
        table.lines().forEach(out::println);
        out.println();
        Wrap.lines(
                        "owed from " + Times.withOffset(counted.instant("from"), zone) + " until "
                                + Times.withOffset(counted.instant("until"), zone)
                                + ", each by the version in force at the time",
                        look.width(),
                        0)
                .forEach(line -> out.println(look.palette().faint(line)));
        out.println();
        jobs.forEach(tally -> details(tally, zone, out));
        out.println();
        Wrap.lines(counted.text("sentence"), look.width(), 0)
                .forEach(line -> out.println(look.palette().bold(line)));
    }

    private static boolean isWorthALine(Seen tally) {
        return tally.number("owed") + tally.number("byEnds") + tally.number("ordered") > 0 || !tally.flag("isClean");
    }

    private static String name(Seen tally) {
        return tally.text("job") + (tally.flag("dropped") ? " (dropped)" : "");
    }

    /** Figures that have a column whatever they are; others have one only where they are not 0. */
    private static final Set<TallyFigure> ALWAYS_SHOWN = EnumSet.of(
            TallyFigure.OWED,
            TallyFigure.ON_TIME,
            TallyFigure.LATE,
            TallyFigure.MISSED,
            TallyFigure.OPEN,
            TallyFigure.SUCCEEDED,
            TallyFigure.FAILED);

    private static String heading(TallyFigure figure) {
        return figure == TallyFigure.UNEXPLAINED ? "UNEXPL." : figure.name().replace('_', ' ');
    }

    private static Object[] row(String name, Seen tally, List<TallyFigure> columns) {
        List<Object> figures = new ArrayList<>(List.of(name));
        columns.forEach(column -> figures.add(tally.number(column.word())));
        return figures.toArray();
    }

    private void details(Seen tally, ZoneId zone, PrintWriter out) {
        Palette palette = look.palette();
        List<String> lines = new ArrayList<>();
        Seen lists = tally.within("lists");
        tally.texts("wrongSpans").forEach(text -> lines.add(palette.word("PROBLEM") + "  " + text));
        lists.list("unexplained")
                .forEach(finding -> lines.add(palette.word("UNEXPLAINED") + "  " + at(finding, zone)
                        + ", owed by version " + finding.text("version") + ", and nothing is on record"));
        lists.list("late")
                .forEach(finding -> lines.add(palette.word("LATE") + "  " + at(finding, zone) + " began "
                        + Durations.about(finding.maybeMillis("lateMillis").orElseThrow()) + " late (run "
                        + finding.text("run") + ")"));
        tally.maybeWithin("deadlines")
                .ifPresent(kept -> kept.list("listed")
                        .forEach(each -> lines.add(palette.word("DEADLINE") + "  " + deadline(each, zone))));
        tally.list("notOwed")
                .forEach(line -> lines.add(palette.word("NOT OWED") + "  " + at(line, zone) + " is on record (run "
                        + line.text("run") + "), and no version's rules owe it"));
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

    private List<String> counts(Seen tally) {
        List<String> counts = new ArrayList<>();
        Map<String, Long> reasons = tally.counts("reasons");
        if (!reasons.isEmpty()) {
            counts.add("did not run: "
                    + reasons.entrySet().stream()
                            .map(each -> each.getValue() + " " + look.palette().word(each.getKey()))
                            .collect(Collectors.joining(", ")));
        }
        if (tally.number("takenOver") > 0) {
            counts.add(tally.number("takenOver") + " whose instance died or left");
        }
        tally.maybeWithin("deadlines")
                .filter(kept -> kept.number("missed") > 0)
                .ifPresent(kept -> counts.add(kept.number("missed") + " of " + kept.number("due")
                        + (kept.number("due") == 1 ? " deadline" : " deadlines") + " missed"));
        if (tally.number("byEnds") > 0) {
            counts.add(tally.number("byEnds") + " owed after the ends of earlier runs, as the ledger says");
        }
        if (tally.number("ordered") > 0) {
            counts.add(tally.number("ordered") + " ordered besides");
        }
        return counts;
    }

    private static String deadline(Seen missed, ZoneId zone) {
        Instant deadline = missed.instant("deadline");
        return "of " + at(missed, zone) + " was " + Times.withOffset(deadline, zone)
                + missed.maybeInstant("ended")
                        .map(ended -> "; it ended " + Durations.about(Duration.between(deadline, ended)) + " after")
                        .orElse("; it had not ended well by then")
                + missed.maybeNumber("run").map(run -> " (run " + run + ")").orElse("");
    }

    private static String at(Seen finding, ZoneId zone) {
        return Times.withOffset(finding.instant("planned"), zone);
    }
}
