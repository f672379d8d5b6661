package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.cli.desk.Seen;
import dev.brume.definitions.JsonText;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Shows figures of jobs over a period. */
@Command(
        name = "stats",
        mixinStandardHelpOptions = true,
        description =
                "Shows each job's figures over a period: how runs ended, how long they took and how late they began, the"
                        + " longest stretch without a success, and what changed against the period before.",
        footerHeading = "%nColumns:%n",
        footer = {
            "  ENDED      runs that ended; SKIPPED never began and are not among them",
            "  GOOD       which share of those that succeeded or failed succeeded; then, against the period before",
            "  TOOK       the median, and what 99 percent of last attempts did not exceed; JSON has 90 percent too",
            "  LATE       the same of how long after their planned times runs began",
            "  SILENCE    the longest stretch without the start of a run that succeeded",
            "  DEADLINES  of those that passed (endBy), how many no run had ended by, where a job has some",
            "",
            "Example:",
            "  brume stats --from 7d --format json"
        })
final class StatsCommand implements Callable<Integer> {
    @Option(names = "--job", paramLabel = "JOB", description = "Of this job alone: NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--line-by-line",
            description =
                    "Read every line of the ledger, rather than what they were summed up to by the hour: percentiles, which are"
                            + " right within 2 percent otherwise, are precise, and it takes longer.")
    private boolean lineByLine;

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
        Seen found = options.ask(at -> {
            PeriodOptions.Period asked = period.upTo(at.history().now(), look.viewerZone());
            Seen figures = at.figures(key, asked.from(), asked.until(), lineByLine);
            if (figures.list("jobs").isEmpty() && key.isPresent()) {
                throw KnownJobs.missing(at.history(), key.get());
            }
            return figures;
        });
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(found.whole()));
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Seen found, PrintWriter out) {
        Table table = new Table(look)
                .column("JOB")
                .numbers("ENDED")
                .numbers("SKIPPED")
                .numbers("GOOD")
                .numbers("")
                .fold()
                .numbers("TOOK 50 %")
                .numbers("99 %")
                .numbers("LATE 50 %")
                .numbers("99 %")
                .numbers("SILENCE");
        boolean deadlines = found.list("jobs").stream().anyMatch(line -> line.has("deadlines"));
        if (deadlines) {
            table.numbers("DEADLINES");
        }
        found.list("jobs").stream()
                .filter(line -> !line.counts("outcomes").isEmpty() || line.number("live") > 0)
                .forEach(line ->
                        table.row(Stream.concat(cells(line), deadlines ? Stream.of(missed(line)) : Stream.empty())
                                .toArray()));
        table.lines().forEach(out::println);
        out.println();
        Instant from = found.instant("from");
        Instant until = found.instant("until");
        Wrap.lines(
                        "runs planned from " + Times.withOffset(from, look.viewerZone()) + " until "
                                + Times.withOffset(until, look.viewerZone()) + "; +/- points against the "
                                + Durations.about(Duration.between(from, until)) + " before",
                        look.width(),
                        0)
                .forEach(line -> out.println(look.palette().faint(line)));
    }

    private static Stream<Object> cells(Seen line) {
        return Stream.of(
                line.text("job"),
                line.counts("outcomes").values().stream()
                        .mapToLong(Long::longValue)
                        .sum(),
                line.counts("outcomes").getOrDefault(Outcome.SKIPPED.name(), 0L),
                line.maybeShare("successShare").map(StatsCommand::percent).orElse(""),
                trend(line).map(StatsCommand::points).orElse(""),
                rank(line, "tookMillis", "p50"),
                rank(line, "tookMillis", "p99"),
                rank(line, "lateMillis", "p50"),
                rank(line, "lateMillis", "p99"),
                line.maybeNumber("silenceSeconds")
                        .map(Duration::ofSeconds)
                        .map(Durations::about)
                        .orElse(""));
    }

    private static String missed(Seen line) {
        return line.maybeWithin("deadlines")
                .map(kept -> kept.number("missed") + " of " + kept.number("due") + " missed")
                .orElse("");
    }

    private static String percent(double share) {
        return String.format(Locale.ROOT, "%.1f %%", Math.floor(share * 1000) / 10);
    }

    private static String points(double points) {
        return String.format(Locale.ROOT, "%+.1f", points);
    }

    /** {@return by how many points more runs succeeded than in the period before, if there were any in both} */
    private static Optional<Double> trend(Seen line) {
        return line.maybeShare("successShare")
                .flatMap(share -> line.maybeShare("successShareBefore").map(before -> (share - before) * 100));
    }

    private static String rank(Seen line, String figures, String rank) {
        return line.maybeWithin(figures)
                .flatMap(percentiles -> percentiles.maybeMillis(rank))
                .map(Durations::about)
                .orElse("");
    }
}
