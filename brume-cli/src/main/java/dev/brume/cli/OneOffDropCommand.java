package dev.brume.cli;

import dev.brume.JobName;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Drops a one-off. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description =
                "Drops a one-off that waits; its key is free again. Once a run was made of it, brume cancel is the way.",
        footerHeading = "%nExample:%n",
        footer = "  brume one-off drop bridge-closure regatta-2027")
final class OneOffDropCommand implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(index = "1", paramLabel = "KEY", description = "The key it was ordered under.")
    private String key;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = OrderOptions.key(job);
        boolean dropped = options.order(desk -> desk.orders().oneOffs().drop(name, key));
        return dropped
                ? report.done("dropped " + key + " of " + name, "job", name, "key", key)
                : report.notDone(
                        "no one-off '" + key + "' of " + name + " waits; see brume one-off list",
                        "job",
                        name,
                        "key",
                        key);
    }
}
