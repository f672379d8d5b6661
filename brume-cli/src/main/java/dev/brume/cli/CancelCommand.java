package dev.brume.cli;

import dev.brume.Cancelled;
import dev.brume.NotThereException;
import java.io.PrintWriter;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

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

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        PrintWriter out = spec.commandLine().getOut();
        PrintWriter err = spec.commandLine().getErr();
        Cancelled cancelled = options.order(desk -> desk.orders().cancel(run));
        switch (cancelled) {
            case ENDED -> out.println("cancelled run " + run + ", which was waiting");
            case ASKED -> out.println("asked run " + run + " to stop; see brume show " + run);
            case TOO_LATE -> err.println("brume: run " + run + " had ended before; see brume show " + run);
            case UNKNOWN -> throw NotThereException.ofRun(run, "; see brume runs");
            default -> throw new IllegalStateException(cancelled.name());
        }
        boolean done = cancelled == Cancelled.ENDED || cancelled == Cancelled.ASKED;
        return done ? ExitCode.OK : ExitCode.NOT_FOUND;
    }
}
