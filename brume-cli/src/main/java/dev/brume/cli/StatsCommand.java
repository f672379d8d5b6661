package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.Ends;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.Accounts;
import dev.brume.insight.tally.JobFigures;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.function.Function;
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
            "  ENDED    runs that ended; SKIPPED never began and are not among them",
            "  GOOD     which share of those that succeeded or failed succeeded; then, against the period before",
            "  TOOK     the median, and what 99 percent of last attempts did not exceed; JSON has 90 percent too",
            "  LATE     the same of how long after their planned times runs began",
            "  SILENCE  the longest stretch without the start of a run that succeeded",
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
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Line(JobAccount account, JobFigures figures, Ends before) {
        /** Whether the job was dropped before the period itself began, so that only the one before knows of it. */
        boolean isOver() {
            return account.dropped() && figures.outcomes().isEmpty() && figures.live() == 0;
        }

        /** By how much the share of good ones rose or fell, in points of a hundred. */
        Optional<Double> trend() {
            return figures.successShare()
                    .flatMap(share ->
                            JobFigures.successShare(before.outcomes()).map(earlier -> (share - earlier) * 100));
        }
    }

    private record Found(Instant from, Instant until, List<Line> lines) {}

    private static Timeframe timeframe(Optional<JobName> key, Instant begin, Instant end) {
        Timeframe all = Timeframe.between(begin, end);
        return key.map(all::of).orElse(all);
    }

    /** A job's figures from an instant on, and how its runs ended before it. */
    private static Optional<Line> line(JobAccount account, Timeframe frame, Instant begin) {
        return JobFigures.ofSums(account, begin, frame.until())
                .map(figures -> new Line(account, figures, JobFigures.endsOf(account, frame.from(), begin)));
    }

    private List<Line> look(History history, Timeframe frame, Instant begin) {
        if (!lineByLine) {
            return new ArrayList<>(Accounts.read(history, frame, account -> line(account, frame, begin)));
        }
        List<Line> lines = new ArrayList<>();
        history.accounts(frame, account -> line(account, frame, begin).ifPresent(lines::add));
        return lines;
    }

    @Override
    public Integer call() {
        Optional<JobName> key = Optional.ofNullable(job).map(OrderOptions::key);
        Found found = options.look(history -> {
            PeriodOptions.Period asked = period.upTo(history.now(), look.viewerZone());
            Instant begin = asked.from();
            Instant end = asked.until();
            Instant earlier = begin.minus(Duration.between(begin, end));
            List<Line> lines = look(history, timeframe(key, earlier, end).splitAt(begin), begin);
            lines.removeIf(Line::isOver);
            if (lines.isEmpty() && key.isPresent()) {
                throw KnownJobs.missing(history, key.get());
            }
            lines.sort(
                    Comparator.comparing((Line line) -> line.account.name()).thenComparing(line -> line.account.id()));
            return new Found(begin, end, lines);
        });
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonOut.pretty(JsonOut.object(
                    "from", found.from,
                    "until", found.until,
                    "jobs", found.lines.stream().map(StatsCommand::json).toList())));
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
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
        found.lines.stream()
                .filter(line -> !line.figures.outcomes().isEmpty() || line.figures.live() > 0)
                .forEach(line -> table.row(
                        line.account.name(),
                        line.figures.ended(),
                        line.figures.outcomes().getOrDefault(Outcome.SKIPPED, 0L),
                        line.figures.successShare().map(StatsCommand::percent).orElse(""),
                        line.trend().map(StatsCommand::points).orElse(""),
                        rank(line.figures.took(), JobFigures.Percentiles::p50),
                        rank(line.figures.took(), JobFigures.Percentiles::p99),
                        rank(line.figures.late(), JobFigures.Percentiles::p50),
                        rank(line.figures.late(), JobFigures.Percentiles::p99),
                        line.figures.silence().map(Durations::about).orElse("")));
        table.lines().forEach(out::println);
        out.println();
        Wrap.lines(
                        "runs planned from " + Times.withOffset(found.from, look.viewerZone()) + " until "
                                + Times.withOffset(found.until, look.viewerZone()) + "; +/- points against the "
                                + Durations.about(Duration.between(found.from, found.until)) + " before",
                        look.width(),
                        0)
                .forEach(line -> out.println(look.palette().faint(line)));
    }

    private static String percent(double share) {
        return String.format(Locale.ROOT, "%.1f %%", Math.floor(share * 1000) / 10);
    }

    private static String points(double points) {
        return String.format(Locale.ROOT, "%+.1f", points);
    }

    private static String rank(
            Optional<JobFigures.Percentiles> figures, Function<JobFigures.Percentiles, Duration> rank) {
        return figures.map(rank).map(Durations::about).orElse("");
    }

    private static Object json(Line line) {
        return JsonOut.object(
                "job", line.account.name(),
                "id", line.account.id(),
                "outcomes", JsonOut.counts(line.figures.outcomes()),
                "live", line.figures.live(),
                "successShare", line.figures.successShare(),
                "successShareBefore", JobFigures.successShare(line.before.outcomes()),
                "tookMillis", line.figures.took().map(StatsCommand::json),
                "tookMillisMean", line.figures.meanTook().map(Duration::toMillis),
                "tookMillisMeanBefore", line.before.took().map(Duration::toMillis),
                "lateMillis", line.figures.late().map(StatsCommand::json),
                "silenceSeconds", line.figures.silence().map(Duration::toSeconds));
    }

    private static Object json(JobFigures.Percentiles percentiles) {
        return JsonOut.object(
                "p50", percentiles.p50().toMillis(),
                "p90", percentiles.p90().toMillis(),
                "p99", percentiles.p99().toMillis());
    }
}
