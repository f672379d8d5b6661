package dev.brume.cli;

import dev.brume.Cancelled;
import dev.brume.NotThereException;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Cancels a run. */
@Command(
        name = "cancel",
        mixinStandardHelpOptions = true,
        description =
                "Cancels a run. One that waits ends at once. One that runs is asked to stop: a handler is told, and"
                        + " interrupted 10 seconds later; a program and its children get TERM, and KILL 5 seconds later.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 cancelled or asked to stop, 1 it had ended, or there is no such run.",
            "",
            "Example:",
            "  brume cancel 17 --because 'wrong quay'"
        })
final class CancelCommand implements Callable<Integer> {
    @Parameters(paramLabel = "RUN", description = "The run's id, as brume runs lists it.")
    private long run;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        Cancelled cancelled = options.order(desk -> desk.orders().cancel(run));
        return switch (cancelled) {
            case ENDED ->
                report.done("cancelled run " + run + ", which was waiting", "run", run, "cancelled", cancelled);
            case ASKED ->
                report.done("asked run " + run + " to stop; see brume show " + run, "run", run, "cancelled", cancelled);
            case ALREADY_ENDED ->
                report.notDone(
                        "run " + run + " had ended before; see brume show " + run, "run", run, "cancelled", cancelled);
            case NO_SUCH_RUN -> throw NotThereException.ofRun(run, "; see brume runs");
        };
    }
}
