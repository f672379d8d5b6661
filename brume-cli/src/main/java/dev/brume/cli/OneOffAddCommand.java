package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import java.time.Instant;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** Orders a one-off. */
@Command(
        name = "add",
        mixinStandardHelpOptions = true,
        description =
                "Orders a single run of a job under a key of yours. The same key orders nothing a second time; with --or-move it"
                        + " takes the place of the one that waits.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 ordered, 1 the key is taken, or with --or-move its run has been made.",
            "",
            "Example:",
            "  brume one-off add bridge-closure regatta-2027 --at 2027-06-12T09:00 --zone America/Halifax"
        })
final class OneOffAddCommand implements Callable<Integer> {
    @Mixin
    private OneOffOptions oneOff;

    @Mixin
    private DueOption due;

    @Option(
            names = "--payload",
            paramLabel = "TEXT",
            description = "What the run is given; the job's own unless given.")
    private @Nullable String payload;

    @Option(names = "--or-move", description = "Take the place of the one of that key, if it still waits.")
    private boolean orMove;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = oneOff.job();
        String key = oneOff.key();
        return options.order(desk -> {
            Instant when = due.parse(desk.brume().history().now());
            OneOff order = OneOff.of(name, key).at(when);
            OneOff whole = payload == null ? order : order.payload(payload);
            OneOffs oneOffs = desk.orders().oneOffs();
            Object[] members = {"job", name, "key", key, "dueAt", when};
            if (orMove ? oneOffs.addOrMove(whole) : oneOffs.add(whole)) {
                return report.done("ordered " + oneOff + ", due " + when, members);
            }
            return report.notDone(
                    orMove
                            ? "a run of '" + key + "' of " + name + " has been made; see brume runs --job " + name
                            : name + " has, or had, a one-off '" + key + "'; brume one-off move moves one that waits",
                    members);
        });
    }
}
