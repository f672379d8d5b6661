package dev.brume.cli;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Plans a one-off. */
@Command(
        name = "plan",
        mixinStandardHelpOptions = true,
        description =
                "Plans a single run of a job under a key of yours. The same key plans nothing a second time; with --move it"
                        + " moves the one that waits.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 planned or moved, 1 the key is taken, or with --move none of that key waits.",
            "",
            "Example:",
            "  brume plan bridge-closure regatta-2027 --at 2027-06-12T09:00 --zone America/Halifax"
        })
final class PlanCommand implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(index = "1", paramLabel = "KEY", description = "Unique within the job, at most 150 characters.")
    private String key;

    @Option(
            names = "--at",
            paramLabel = "TIME",
            required = true,
            description = "When: 2027-06-12T09:00 in --zone, with Z, or now.")
    private String at;

    @Mixin
    private ZoneOption zone;

    @Option(
            names = "--payload",
            paramLabel = "TEXT",
            description = "What the run is given; the job's own unless given.")
    private @Nullable String payload;

    @Option(names = "--move", description = "Move the one that waits.")
    private boolean move;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = OrderOptions.key(job);
        return options.order(desk -> {
            Instant when = zone.parse("--at", at, desk.brume().history().now());
            boolean done = move
                    ? desk.orders().moveTo(name, key, when)
                    : desk.orders().planAt(name, key, when, Optional.ofNullable(payload));
            Object[] members = {"job", name, "key", key, "dueAt", when, "moved", move};
            if (done) {
                return report.done((move ? "moved " : "planned ") + key + " of " + name + ", due " + when, members);
            }
            return report.notDone(
                    move
                            ? "no one-off '" + key + "' of " + name + " waits; see brume planned"
                            : name + " has, or had, a one-off '" + key + "'; move it with --move",
                    members);
        });
    }
}
