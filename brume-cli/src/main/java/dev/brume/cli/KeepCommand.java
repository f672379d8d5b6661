package dev.brume.cli;

import dev.brume.Keep;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.Kept;
import dev.brume.history.Retention;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Shows and sets how long the ledger is kept. */
@Command(
        name = "keep",
        mixinStandardHelpOptions = true,
        description =
                "Shows how long the ledger is kept, or sets bounds for the whole of it. Unless bounds are set, everything is"
                        + " kept. A job may state tighter ones of its own (keep: in its definition). What is beyond a bound"
                        + " is removed every few hours, oldest first, and the change log says so; a bound may be exceeded by"
                        + " a tenth before that.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume keep",
            "  brume keep --for 400d --because 'audit period'",
            "  brume keep --for 400d --runs 10000000",
            "  brume keep --floor 30d --because 'audit period'",
            "  brume keep --everything",
            "  brume keep --apply"
        })
final class KeepCommand implements Callable<Integer> {
    @Option(names = "--for", paramLabel = "DURATION", description = "Keep ledger lines at least so long, at least 1h.")
    private @Nullable Duration age;

    @Option(names = "--runs", paramLabel = "N", description = "Keep at least so many of the newest ledger lines.")
    private @Nullable Long runs;

    @Option(
            names = "--floor",
            paramLabel = "DURATION",
            description =
                    "No job's own bounds remove younger lines, and no definition may state less; at least 1h. 'none' takes"
                            + " it away.")
    private @Nullable String floor;

    @Option(names = "--everything", description = "Keep everything again; removed lines stay removed.")
    private boolean everything;

    @Option(
            names = "--apply",
            description = "Remove lines beyond the bounds now, rather than when an instance next does.")
    private boolean apply;

    @Mixin
    private OrderOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        boolean bounded = age != null || runs != null;
        if (bounded && everything) {
            throw new UsageException("--everything does not go together with --for and --runs");
        }
        if (floor != null && (bounded || everything)) {
            throw new UsageException("--floor is an order of its own: give it without --for, --runs and --everything");
        }
        PrintWriter out = spec.commandLine().getOut();
        if (floor != null) {
            Optional<Duration> least = floor(floor);
            Optional<Duration> before = options.order(desk -> desk.keepAtLeast(least));
            spec.commandLine()
                    .getErr()
                    .println("every job keeps at least " + words(least) + "; before: " + words(before));
        }
        if (bounded || everything) {
            Keep keep = everything ? Keep.ALL : bounds();
            Keep before = options.order(desk -> desk.keep(keep));
            spec.commandLine().getErr().println("the ledger keeps " + keep + "; before: " + before);
        }
        if (apply) {
            long removed = options.order(desk -> desk.removeBeyondBounds());
            spec.commandLine().getErr().println(removed + (removed == 1 ? " line was removed" : " lines were removed"));
        }
        Retention retention = options.look(history -> history.retention());
        if (look.json()) {
            out.println(JsonText.pretty(Views.retention(retention)));
            return ExitCode.OK;
        }
        Table table = new Table(look).column("WHAT").fold().column("KEEPS").column("KEPT FROM");
        table.row("the ledger", retention.total(), from(retention.from()));
        for (Kept job : retention.jobs()) {
            table.row(job.name(), job.keep(), from(job.from()));
        }
        table.lines().forEach(out::println);
        retention.floor().ifPresent(least -> out.println("every job keeps at least " + Durations.format(least)));
        retention
                .appliedAt()
                .ifPresent(at -> out.println("bounds were last applied at " + Times.withOffset(at, look.viewerZone())));
        return ExitCode.OK;
    }

    private Keep bounds() {
        try {
            Keep bound = age == null ? Keep.ALL : Keep.upTo(age);
            return runs == null ? bound : bound.andNewest(runs);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private static String words(Optional<Duration> floor) {
        return floor.map(Durations::format).orElse("nothing");
    }

    private static Optional<Duration> floor(String text) {
        if (text.equals("none")) {
            return Optional.empty();
        }
        try {
            return Optional.of(Durations.parse(text));
        } catch (IllegalArgumentException e) {
            throw new UsageException("--floor: " + e.getMessage() + ", or 'none'");
        }
    }

    private String from(Instant from) {
        return from.equals(Instant.EPOCH) ? "-" : Times.withOffset(from, look.viewerZone());
    }
}
