package dev.brume.cli;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.history.Progress;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Nearest;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
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
    @Option(names = "--job", paramLabel = "JOB", description = "Only this job's, as NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--outcome",
            paramLabel = "OUTCOME",
            description = "Only those that ended so: succeeded, failed, timed_out, cancelled, skipped, lost.")
    private @Nullable String outcome;

    @Option(
            names = "--state",
            paramLabel = "STATE",
            description = "Only those that have not ended and stand so: planned, waiting, running, backing_off.")
    private @Nullable String state;

    @Option(names = "--tag", paramLabel = "TAG", description = "Only those of jobs that carry the tag.")
    private @Nullable String tag;

    @Option(names = "--reason", paramLabel = "REASON", description = "Only those with this reason, such as BUSY.")
    private @Nullable String reason;

    @Option(names = "--on", paramLabel = "INSTANCE", description = "Only those that this instance had last.")
    private @Nullable String instance;

    @Option(
            names = "--origin",
            paramLabel = "ORIGIN",
            description = "Only those owed to this: schedule, catch_up, one_off, by_hand, rerun, backfill, follow_up.")
    private @Nullable String origin;

    @Option(names = "--error", paramLabel = "TEXT", description = "Only those whose last error holds this text.")
    private @Nullable String error;

    @Option(names = "--below", paramLabel = "RUN", description = "Goes on below this run, as the end of a list says.")
    private @Nullable Long below;

    @Mixin
    private BetweenOptions times;

    @Mixin
    private CountOption count;

    @Option(
            names = "--spans",
            description =
                    "Only spans, occurrences that did not run for one reason (MISSED or PAUSED); no runs. In JSON, spans come only this way.")
    private boolean onlySpans;

    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<RunView> runs, List<SpanView> spans, Instant now) {}

    @Override
    public Integer call() {
        Optional<JobName> key = Optional.ofNullable(job).map(RunsCommand::key);
        Found found = options.look(history -> {
            Instant now = history.now();
            RunFilter filter = filter(key, history, now);
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
        if (look.json()) {
            out.println(JsonOut.pretty(
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

    private RunFilter filter(Optional<JobName> key, History history, Instant now) {
        BetweenOptions.Between between = times.read(look.viewerZone(), now);
        return Given.to(RunFilter.newest(count.count()))
                .and(key.orElse(null), RunFilter::of)
                .and(word("--outcome", outcome, Outcome.values()), RunFilter::withOutcome)
                .and(word("--state", state, RunState.values()), RunFilter::withState)
                .and(between.from().orElse(null), RunFilter::from)
                .and(between.until().orElse(null), RunFilter::until)
                .and(tag, RunFilter::withTag)
                .and(reason == null ? null : reason.toUpperCase(Locale.ROOT), RunFilter::withReason)
                .and(instance, RunFilter::on)
                .and(word("--origin", origin, Origin.values()), RunFilter::withOrigin)
                .and(error, RunFilter::withError)
                .and(below == null ? null : mark(history, below), RunFilter::below)
                .filter();
    }

    private static RunFilter.Below mark(History history, long run) {
        return history.run(run)
                .map(view -> new RunFilter.Below(view.owed().planned(), run))
                .orElseThrow(() -> new UsageException("--below " + run + ": there is no such run"));
    }

    private static <E extends Enum<E>> @Nullable E word(String option, @Nullable String text, E[] values) {
        if (text == null) {
            return null;
        }
        String wanted = text.toLowerCase(Locale.ROOT).replace('-', '_');
        List<String> known = Arrays.stream(values)
                .map(value -> value.name().toLowerCase(Locale.ROOT))
                .toList();
        int place = known.indexOf(wanted);
        if (place < 0) {
            throw new UsageException(option + " '" + text + "' is not one of " + String.join(", ", known)
                    + Nearest.to(wanted, known)
                            .map(near -> "; did you mean " + near + "?")
                            .orElse(""));
        }
        return values[place];
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
