package dev.brume.cli;

import dev.brume.JobName;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Drops a job. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description = "Drops a job: it owes nothing from now on. Its history stays; runs that are live end as usual.",
        footerHeading = "%nExample:%n",
        footer = "  brume drop harbour/reef-survey --because \"the reef is mapped\"")
final class DropCommand implements Callable<Integer> {
    @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName key = OrderOptions.key(job);
        options.order(desk -> {
            if (!desk.orders().drop(key)) {
                throw KnownJobs.missing(desk.brume().history(), key);
            }
            return key;
        });
        return report.done("dropped " + key, "job", key);
    }
}
