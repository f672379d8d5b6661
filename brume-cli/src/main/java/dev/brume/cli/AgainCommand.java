package dev.brume.cli;

import dev.brume.history.RunView;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

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

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        RunView again = options.order(desk -> {
            long ordered = desk.orders().runAgain(run);
            return desk.brume().history().run(ordered).orElseThrow();
        });
        return report.done(
                "ordered run " + again.id() + ", again what run " + run + " was",
                "run",
                again.id(),
                "job",
                again.job(),
                "again",
                run);
    }
}
