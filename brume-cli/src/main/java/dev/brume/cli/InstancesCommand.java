package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists instances. */
@Command(
        name = "instances",
        mixinStandardHelpOptions = true,
        description = "Lists the instances, with the lease of each and when it ends.",
        footerHeading = "%nExample:%n",
        footer = "  brume instances --all --data brume-demo")
final class InstancesCommand implements Callable<Integer> {
    @Option(names = "--all", description = "Shows the sessions that ended in the last seven days too.")
    private boolean all;

    @Mixin
    private WhereOptions options;

    @Mixin
    private AsOfOption asOf;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<SessionView> sessions, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.ask(at -> {
            History history = asOf.of(at, look).history();
            return new Found(history.sessions(all), history.now());
        });
        PrintWriter out = spec.commandLine().getOut();
        asOf.tell(out, look);
        if (look.json()) {
            out.println(
                    JsonText.pretty(found.sessions.stream().map(Views::session).toList()));
        } else if (found.sessions.isEmpty()) {
            out.println(all ? "No instance was ever here." : "No instance is alive; --all shows ended ones.");
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
        Table table = new Table(look)
                .column("INSTANCE")
                .column("HOST")
                .numbers("PID")
                .fold()
                .column("STATE")
                .column("LEASE")
                .numbers("RUNS")
                .column("LANES")
                .column("SINCE");
        for (SessionView view : found.sessions) {
            SessionRow row = view.row();
            table.row(
                    row.instance(),
                    row.host(),
                    row.pid(),
                    row.lapsedAt(found.now) ? "LAPSED" : row.state().name(),
                    lease(row, found),
                    view.runs(),
                    lanes(row),
                    Times.relative(row.openedAt(), found.now));
        }
        table.lines().forEach(out::println);
    }

    private static String lanes(SessionRow row) {
        String lanes = String.join(" ", row.lanes());
        return row.labels().isEmpty() ? lanes : lanes + " (" + String.join(", ", row.labels()) + ")";
    }

    private static String lease(SessionRow row, Found found) {
        if (row.state() != SessionRow.State.ENDED) {
            return "ends " + Times.relative(row.leaseUntil(), found.now);
        }
        if (!row.died()) {
            return "stopped "
                    + row.endedAt().map(at -> Times.relative(at, found.now)).orElse("");
        }
        return (cameBack(row, found) ? "lost " : "died ") + Times.relative(row.leaseUntil(), found.now);
    }

    /** Whether the same process joined again: it had lost its lease, because it slept or the database was away. */
    private static boolean cameBack(SessionRow row, Found found) {
        return found.sessions.stream()
                .map(SessionView::row)
                .anyMatch(other -> other.openedAt().isAfter(row.openedAt())
                        && other.host().equals(row.host())
                        && other.pid() == row.pid()
                        && other.instance().equals(row.instance()));
    }
}
