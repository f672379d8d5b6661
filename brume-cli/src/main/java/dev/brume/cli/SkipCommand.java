package dev.brume.cli;

import dev.brume.JobKey;
import dev.brume.schedule.Occurrence;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Leaves a job's next occurrence out. */
@Command(
        name = "skip",
        mixinStandardHelpOptions = true,
        description =
                "Leaves the next occurrence of a job out; those after it come as ever. The ledger says who skipped it.",
        footerHeading = "%nExample:%n",
        footer = "  brume skip harbour/fog-signal-test --because 'regatta'")
final class SkipCommand implements Callable<Integer> {
    @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Mixin
    private OrderOptions options;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        JobKey key = OrderOptions.key(job);
        Optional<Occurrence> skipped = options.order(desk -> desk.orders().skipNext(key));
        if (skipped.isEmpty()) {
            spec.commandLine().getErr().println("brume: " + key + " has no occurrence to come; nothing was skipped");
            return ExitCode.NOT_FOUND;
        }
        Occurrence next = skipped.get();
        spec.commandLine()
                .getOut()
                .println("skips " + Times.withOffset(next.instant(), next.zone()) + " " + next.zone() + " of " + key);
        return ExitCode.OK;
    }
}
