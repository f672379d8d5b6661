package dev.brume.cli;

import dev.brume.Cancelled;
import dev.brume.cli.desk.Desk;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Cancels a run. */
@Command(
        name = "cancel",
        mixinStandardHelpOptions = true,
        description =
                "Cancels runs. One that waits ends at once. One that runs is asked to stop: a handler is told, and"
                        + " interrupted 10 seconds later; a program and its children get TERM, and KILL 5 seconds later.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 cancelled or asked to stop, 1 it had ended, or there is no such run.",
            "",
            "Examples:",
            "  brume cancel 17 --because 'wrong quay'",
            "  brume cancel --tag telemetry --state waiting --yes"
        })
final class CancelCommand implements Callable<Integer> {
    @Mixin
    private ManyRuns which;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        Optional<Long> one = which.run();
        return options.order(desk ->
                one.isPresent() ? cancel(desk, one.get()) : which.order(desk, report, "cancelled", Desk.Bulk.CANCEL));
    }

    private int cancel(Desk desk, long run) {
        Cancelled cancelled = desk.cancel(run);
        return switch (cancelled) {
            case ENDED ->
                report.done("cancelled run " + run + ", which was waiting", "run", run, "cancelled", cancelled);
            case ASKED ->
                report.done("asked run " + run + " to stop; see brume show " + run, "run", run, "cancelled", cancelled);
            case ALREADY_ENDED ->
                report.notDone(
                        "run " + run + " had ended before; see brume show " + run, "run", run, "cancelled", cancelled);
            case NO_SUCH_RUN -> throw KnownRuns.missing(desk.history(), run);
        };
    }
}
