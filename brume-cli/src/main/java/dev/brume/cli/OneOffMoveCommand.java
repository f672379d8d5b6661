package dev.brume.cli;

import dev.brume.JobName;
import java.time.Instant;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

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
    @Mixin
    private OneOffOptions oneOff;

    @Mixin
    private DueOption due;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = oneOff.job();
        String key = oneOff.key();
        return options.order(desk -> {
            Instant when = due.parse(desk.history().now());
            Object[] members = {"job", name, "key", key, "dueAt", when};
            return oneOff.report(report, desk.move(name, key, when), members);
        });
    }
}
