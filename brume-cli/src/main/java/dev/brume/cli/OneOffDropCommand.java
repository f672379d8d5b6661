package dev.brume.cli;

import dev.brume.JobName;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Drops a one-off. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description =
                "Drops a one-off that waits; its key is free again. Once a run was made of it, brume cancel is the way.",
        footerHeading = "%nExample:%n",
        footer = "  brume one-off drop bridge-closure regatta-2027")
final class OneOffDropCommand implements Callable<Integer> {
    @Mixin
    private OneOffOptions oneOff;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = oneOff.job();
        String key = oneOff.key();
        boolean dropped = options.order(desk -> desk.orders().oneOffs().drop(name, key));
        return dropped
                ? report.done("dropped " + oneOff, "job", name, "key", key)
                : report.notDone(
                        "no one-off '" + key + "' of " + name + " waits; see brume one-off list",
                        "job",
                        name,
                        "key",
                        key);
    }
}
