package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.schedule.Occurrence;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

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

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName key = OrderOptions.key(job);
        Optional<Occurrence> skipped = options.order(desk -> desk.skipNext(key));
        if (skipped.isEmpty()) {
            return report.notDone(
                    key + " has no occurrence to come; nothing was skipped", "job", key, "skipped", skipped);
        }
        Occurrence next = skipped.get();
        return report.done(
                "skips " + Times.withOffset(next.instant(), next.zone()) + " " + next.zone() + " of " + key,
                "job",
                key,
                "skipped",
                JsonOut.occurrence("", next));
    }
}
