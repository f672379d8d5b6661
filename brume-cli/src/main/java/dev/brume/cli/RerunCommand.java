package dev.brume.cli;

import dev.brume.history.RunView;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Runs once more what an ended run was owed to. */
@Command(
        name = "rerun",
        mixinStandardHelpOptions = true,
        description =
                "Runs once more what an ended run was owed to: the same planned time and payload, under the definition in"
                        + " force.",
        footerHeading = "%nExample:%n",
        footer = "  brume rerun 17 --because 'the feed was late'")
final class RerunCommand implements Callable<Integer> {
    @Parameters(paramLabel = "RUN", description = "The run's id, as brume runs lists it.")
    private long run;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        RunView rerun = options.order(desk -> {
            long ordered = desk.orders().rerun(run).id();
            return desk.brume().history().run(ordered).orElseThrow();
        });
        return report.done(
                "ordered run " + rerun.id() + ", which reruns run " + run,
                "run",
                rerun.id(),
                "job",
                rerun.job(),
                "rerunOf",
                run);
    }
}
