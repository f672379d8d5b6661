package dev.brume.cli;

import dev.brume.history.History;
import dev.brume.history.SessionView;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Asks an instance to leave in good order. */
@Command(
        name = "drain",
        mixinStandardHelpOptions = true,
        description =
                "Asks an instance, wherever it runs, to leave: it takes no more work from now on, lets its runs end"
                        + " for up to its own drain limit, hands the rest to the others and ends.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 it has left, 1 no instance of that name takes work, 4 it had not left when --wait was over.",
            "",
            "Example:",
            "  brume drain quay-1 --wait 2m"
        })
final class DrainCommand implements Callable<Integer> {
    @Parameters(paramLabel = "INSTANCE", description = "Its name, as brume instances shows it.")
    private String name;

    @Option(
            names = "--wait",
            paramLabel = "DURATION",
            defaultValue = "60s",
            description = "How long to wait until it has left; 0s to order it and go. Default: ${DEFAULT-VALUE}.")
    private Duration wait;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        return options.order(desk -> {
            Set<UUID> draining = desk.drain(name);
            if (draining.isEmpty()) {
                return report.notDone(
                        "no instance '" + name + "' takes work; see brume instances", "instance", name, "left", false);
            }
            report.meanwhile("draining " + name + ": it takes no more work, and leaves when its runs have ended");
            return await(desk.history(), draining, wait);
        });
    }

    private int await(History history, Set<UUID> draining, Duration patience) {
        List<SessionView> left = Patience.look(patience, () -> left(history, draining), List::isEmpty);
        if (left.isEmpty()) {
            return report.done(name + " has left", "instance", name, "left", true, "runs", 0);
        }
        int runs = left.stream().mapToInt(SessionView::runs).sum();
        report.done(
                name + " is still draining; " + runs + (runs == 1 ? " run has" : " runs have") + " not ended",
                "instance",
                name,
                "left",
                false,
                "runs",
                runs);
        return patience.isZero() ? ExitCode.OK : ExitCode.NOT_YET;
    }

    private static List<SessionView> left(History history, Set<UUID> draining) {
        return history.sessions(/* ended= */ false).stream()
                .filter(view -> draining.contains(view.row().id()))
                .toList();
    }
}
