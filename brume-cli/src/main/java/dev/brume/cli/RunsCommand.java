package dev.brume.cli;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.history.Progress;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists runs. */
@Command(
        name = "runs",
        mixinStandardHelpOptions = true,
        description =
                "Lists runs, newest first by when they were planned for: live ones, ended ones, and spans of missed occurrences.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume runs --data brume-demo",
            "  brume runs --job harbour/ferry-manifests --outcome skipped",
            "  brume runs --tag telemetry --error refused --from 2h --format json"
        })
final class RunsCommand implements Callable<Integer> {
    @Mixin
    private RunFilterOptions which;

    @Option(names = "--below", paramLabel = "RUN", description = "Goes on below this run, as the end of a list says.")
    private @Nullable Long below;

    @Mixin
    private CountOption count;

    @Option(
            names = "--spans",
            description =
                    "Only spans, occurrences that did not run for one reason (MISSED or PAUSED); no runs. In JSON, spans come only this way.")
    private boolean onlySpans;

    @Mixin
    private WhereOptions options;

    @Mixin
    private AsOfOption asOf;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<RunView> runs, List<SpanView> spans, Instant now) {}

    @Override
    public Integer call() {
        Optional<JobName> key = which.job();
        Found found = options.ask(at -> {
            History history = asOf.of(at, look).history();
            Instant now = history.now();
            RunFilter filter = filter(history, now);
            boolean spans = filter.fitsSpans();
            if (onlySpans && !spans) {
                throw new UsageException("--spans goes with --job, --reason, --from, --until and --count alone");
            }
            List<RunView> runs = onlySpans ? List.of() : history.runs(filter);
            if (runs.isEmpty() && key.isPresent() && history.job(key.get()).isEmpty()) {
                throw KnownJobs.missing(history, key.get());
            }
            return new Found(runs, spans ? history.spans(filter) : List.of(), now);
        });
        PrintWriter out = spec.commandLine().getOut();
        asOf.tell(out, look);
        if (look.json()) {
            out.println(JsonText.pretty(
                    onlySpans
                            ? found.spans.stream().map(Views::span).toList()
                            : found.runs.stream().map(Views::run).toList()));
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    static JobName key(String text) {
        try {
            return JobName.parse(text);
        } catch (IllegalArgumentException e) {
            throw new UsageException("'" + text + "' is not a job's name: " + e.getMessage());
        }
    }

    private RunFilter filter(History history, Instant now) {
        return Given.to(which.filter(count.count(), look.viewerZone(), now))
                .and(below == null ? null : mark(history, below), RunFilter::below)
                .filter();
    }

    private static RunFilter.Below mark(History history, long run) {
        return history.run(run)
                .map(view -> new RunFilter.Below(view.owed().planned(), run))
                .orElseThrow(() -> new UsageException("--below " + run + ": there is no such run"));
    }

    private void print(Found found, PrintWriter out) {
        if (found.runs.isEmpty() && found.spans.isEmpty()) {
            out.println(onlySpans ? "No spans match." : "No runs match.");
            return;
        }
        if (!found.runs.isEmpty()) {
            printRuns(found, out);
        }
        ZoneId zone = look.viewerZone();
        for (SpanView span : found.spans) {
            out.println(look.palette().word(span.span().reason()) + "  " + span.job() + ": "
                    + span.span().occurrences() + " passed over, "
                    + Times.dayAndTime(span.span().first(), zone) + " to "
                    + Times.dayAndTime(span.span().last(), zone));
        }
        if (found.runs.isEmpty()) {
            out.println();
            out.println(look.palette().faint("times in " + Times.name(zone)));
        }
    }

    private void printRuns(Found found, PrintWriter out) {
        ZoneId zone = look.viewerZone();
        Table table = new Table(look)
                .numbers("RUN")
                .column("JOB")
                .fold()
                .column("PLANNED")
                .numbers("LATE")
                .numbers("TOOK")
                .column("ON")
                .column("OUTCOME");
        for (RunView run : found.runs) {
            Optional<Attempt> last = run.lastAttempt();
            String end = run.outcome()
                    .map(Enum::name)
                    .or(() -> run.state().map(Enum::name))
                    .orElse("");
            table.row(
                    run.id(),
                    run.job(),
                    Times.dayAndTime(run.owed().planned(), zone),
                    Views.firstStart(run).map(Durations::about).orElse(""),
                    last.map(attempt -> took(attempt, found.now)).orElse(""),
                    last.map(Attempt::instance).orElse(""),
                    end + run.reason().map(reason -> " " + reason).orElse(""));
            table.below(why(run));
        }
        table.lines().forEach(out::println);
        out.println();
        String more = found.runs.size() == count.count()
                ? "; for more: --below " + found.runs.get(found.runs.size() - 1).id()
                : "";
        out.println(look.palette()
                .faint("planned in " + Times.name(zone) + ", late against the plan, took the last attempt" + more));
    }

    private static String took(Attempt attempt, Instant now) {
        return Durations.about(Views.took(attempt).orElseGet(() -> Duration.between(attempt.startedAt(), now)));
    }

    private static String why(RunView run) {
        String attempts = run.attempts().size() > 1 ? run.attempts().size() + " attempts" : "";
        String error = run.outcome().filter(end -> end == Outcome.SUCCEEDED).isPresent()
                ? ""
                : run.lastAttempt()
                        .flatMap(Attempt::error)
                        .map(ShowCommand::firstLine)
                        .orElse("");
        String progress = run.progress().map(Progress::toString).orElse("");
        return Stream.of(progress, attempts, error)
                .filter(part -> !part.isEmpty())
                .collect(java.util.stream.Collectors.joining(", "));
    }
}
