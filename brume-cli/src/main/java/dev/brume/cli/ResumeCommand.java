package dev.brume.cli;

import dev.brume.PauseChange;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lifts a pause. */
@Command(
        name = "resume",
        mixinStandardHelpOptions = true,
        description =
                "Lifts the pause of a job, a tag or everything. What was not owed meanwhile is decided as each job's"
                        + " ifMissed says; the rest is recorded as one span. A job that another pause covers stays paused.",
        footerHeading = "%nExit codes:%n",
        footer = {"  0 resumed, 1 there is no such pause.", "", "Example:", "  brume resume --tag nightly"})
final class ResumeCommand implements Callable<Integer> {
    @Mixin
    private PauseScope which;

    @Mixin
    private OrderOptions options;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        PauseChange changed = options.order(desk -> desk.orders().resume(which.scope()));
        if (!changed.ordered() && changed.jobs() == 0) {
            spec.commandLine().getErr().println("brume: " + which.scope() + " was not paused");
            return ExitCode.NOT_FOUND;
        }
        spec.commandLine()
                .getOut()
                .println(which.scope() + " resumed: " + PauseScope.jobs(changed.jobs())
                        + (changed.jobs() == 1 ? " goes on" : " go on"));
        return ExitCode.OK;
    }
}
