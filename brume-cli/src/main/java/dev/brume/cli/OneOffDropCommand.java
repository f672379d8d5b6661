package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.cli.desk.OneOffReply;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Drops a one-off. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description = "Drops a one-off that waits. Once its run was made, brume cancel is the way.",
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
        OneOffReply answer = options.order(desk -> desk.drop(name, key));
        return oneOff.report(report, answer, "job", name, "key", key);
    }
}
