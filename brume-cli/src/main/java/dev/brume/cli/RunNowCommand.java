package dev.brume.cli;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.History;
import dev.brume.history.RunView;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Starts a job now. */
@Command(
        name = "run-now",
        mixinStandardHelpOptions = true,
        description =
                "Starts a job now, whatever its schedules say, paused or not. Where the job has no place free, the run"
                        + " waits for one. It is carried out by an instance that serves the job's lane.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 ordered, and with --wait it succeeded; 1 with --wait: it ended otherwise; 4 it had not ended when --wait was"
                    + " over.",
            "",
            "Example:",
            "  brume run-now harbour/tide-tables --payload '{\"quay\":4}' --wait 1m --because 'new gauge'"
        })
final class RunNowCommand implements Callable<Integer> {
    @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Option(
            names = "--payload",
            paramLabel = "TEXT",
            description = "What the run is given; the job's own unless given.")
    private @Nullable String payload;

    @Option(
            names = "--wait",
            paramLabel = "DURATION",
            defaultValue = "0s",
            description = "How long to wait for the end; default: not at all.")
    private Duration wait;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName key = OrderOptions.key(job);
        return options.order(desk -> {
            long run = desk.runNow(key, Optional.ofNullable(payload));
            String ordered = "ordered run " + run + " of " + key + "; see brume show " + run;
            if (wait.isZero()) {
                return report.done(ordered, "job", key, "run", run);
            }
            report.meanwhile(ordered);
            return await(desk.history(), run, wait);
        });
    }

    private int await(History history, long run, Duration patience) {
        RunView view = Patience.look(
                patience,
                () -> history.run(run).orElseThrow(),
                seen -> seen.outcome().isPresent());
        Object[] members = {
            "job", view.job(),
            "run", run,
            "state", view.state(),
            "outcome", view.outcome(),
            "reason", view.reason(),
            "result", view.result(),
            "error", view.lastAttempt().flatMap(Attempt::error)
        };
        if (view.outcome().isEmpty()) {
            report.done(
                    "run " + run + " has not ended yet; it is "
                            + view.state().map(Enum::name).orElse("live"),
                    members);
            return ExitCode.NOT_YET;
        }
        report.done(
                "run " + run + " " + view.outcome().get()
                        + view.reason().map(reason -> "  " + reason).orElse("")
                        + view.result()
                                .map(result -> ": " + ShowCommand.firstLine(result))
                                .orElse(""),
                members);
        return view.outcome().get() == Outcome.SUCCEEDED ? ExitCode.OK : ExitCode.NOT_FOUND;
    }
}
