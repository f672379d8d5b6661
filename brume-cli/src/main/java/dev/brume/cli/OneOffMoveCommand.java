package dev.brume.cli;

import dev.brume.JobName;
import java.time.Instant;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Moves a one-off. */
@Command(
        name = "move",
        mixinStandardHelpOptions = true,
        description = "Moves a one-off that waits to another time.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 moved, 1 none of that key waits.",
            "",
            "Example:",
            "  brume one-off move bridge-closure regatta-2027 --at 2027-06-13T09:00 --zone America/Halifax"
        })
final class OneOffMoveCommand implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(index = "1", paramLabel = "KEY", description = "The key it was ordered under.")
    private String key;

    @Option(
            names = "--at",
            paramLabel = "TIME",
            required = true,
            description = "When: 2027-06-12T09:00 in --zone, with Z, or now.")
    private String at;

    @Mixin
    private ZoneOption zone;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = OrderOptions.key(job);
        return options.order(desk -> {
            Instant when = zone.parse("--at", at, desk.brume().history().now());
            Object[] members = {"job", name, "key", key, "dueAt", when};
            return desk.orders().oneOffs().move(name, key, when)
                    ? report.done("moved " + key + " of " + name + ", due " + when, members)
                    : report.notDone("no one-off '" + key + "' of " + name + " waits; see brume one-off list", members);
        });
    }
}
