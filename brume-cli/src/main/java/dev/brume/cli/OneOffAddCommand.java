package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.cli.desk.OneOffReply;
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
                "Orders a single run of a job under a key of yours. While one of that key waits, it is not ordered again; with --or-move it"
                        + " takes the place of the one that waits. Once that has become a run, the key is free for the next.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 ordered, or moved, or there already just so; 1 one of that key waits, or the run of that very time was made.",
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

    @Option(
            names = "--exclusive",
            paramLabel = "NAME",
            description = "At most one run at once of all one-offs of the namespace that name the same.")
    private @Nullable String exclusive;

    @Option(
            names = "--once",
            paramLabel = "TEXT",
            description =
                    "An order key: the order is taken once, however often it is given, as long as its run is on record, and a day at least.")
    private @Nullable String once;

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
            OneOffReply answer = desk.add(wanted(OneOff.of(name, key).at(when)), orMove);
            return oneOff.report(report, answer, "job", name, "key", key, "dueAt", when);
        });
    }

    private OneOff wanted(OneOff order) {
        OneOff wanted = payload == null ? order : order.payload(payload);
        wanted = exclusive == null ? wanted : wanted.exclusive(exclusive);
        return once == null ? wanted : wanted.once(once);
    }
}
