package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.NamedLeaseRow;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists leases by name. */
@Command(
        name = "named-leases",
        mixinStandardHelpOptions = true,
        description =
                "Lists the leases by name that applications take for timers of their own: who has which, until when.",
        footerHeading = "%nStates:%n",
        footer = {
            "  HELD     someone has it; unless renewed, it ends at the time shown",
            "  COOLING  it was given back, and can be taken again from the time shown",
            "  FREE     anyone may take it; forgotten after seven days",
            "",
            "Example:",
            "  brume named-leases --format json"
        })
final class NamedLeasesCommand implements Callable<Integer> {
    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<NamedLeaseRow> leases, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.look(history -> new Found(history.leases(), history.now()));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(found.leases.stream()
                    .map(lease -> Views.lease(lease, found.now))
                    .toList()));
        } else if (found.leases.isEmpty()) {
            out.println("No lease was taken by name lately.");
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
        Table table = new Table(look)
                .column("LEASE")
                .fold()
                .column("STATE")
                .column("HOLDER")
                .column("TAKEN")
                .column("UNTIL")
                .numbers("FENCE");
        for (NamedLeaseRow lease : found.leases) {
            NamedLeaseRow.State state = lease.state(found.now);
            Instant until = state == NamedLeaseRow.State.COOLING ? lease.freeAt() : lease.until();
            table.row(
                    lease.name(),
                    state,
                    lease.holder(),
                    Times.relative(lease.takenAt(), found.now),
                    Times.relative(until, found.now),
                    lease.fence());
        }
        table.lines().forEach(out::println);
    }
}
