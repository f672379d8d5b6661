package dev.brume.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Runs once more what an ended run was owed to. */
@Command(
        name = "again",
        mixinStandardHelpOptions = true,
        description =
                "Runs once more what an ended run was owed to: the same planned time and payload, under the definition in"
                        + " force.",
        footerHeading = "%nExample:%n",
        footer = "  brume again 17 --because 'the feed was late'")
final class AgainCommand implements Callable<Integer> {
    @Parameters(paramLabel = "RUN", description = "The run's id, as brume runs lists it.")
    private long run;

    @Mixin
    private OrderOptions options;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        long again = options.order(desk -> desk.orders().runAgain(run));
        spec.commandLine().getOut().println("ordered run " + again + ", again what run " + run + " was");
        return ExitCode.OK;
    }
}
