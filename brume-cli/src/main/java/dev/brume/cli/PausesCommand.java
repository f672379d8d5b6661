package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.history.Pause;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists the pauses in force and those to come. */
@Command(
        name = "pauses",
        mixinStandardHelpOptions = true,
        description =
                "Lists the pauses that are in force and those that are planned: which jobs, from when until when, what becomes of what is"
                        + " owed meanwhile, who ordered it and why.",
        footerHeading = "%nExample:%n",
        footer = "  brume pauses --data brume-data")
final class PausesCommand implements Callable<Integer> {
    private static final int SHOWN = 20;

    @Option(
            names = "--all",
            description = "All that are planned, not only the next " + SHOWN + " and the next of each calendar.")
    private boolean all;

    @Mixin
    private WhereOptions store;

    @Mixin
    private AsOfOption asOf;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Seen(List<Pause> inForce, List<Pause> planned, Instant now) {}

    @Override
    public Integer call() {
        Seen seen = store.ask(at -> {
            History history = asOf.of(at, look).history();
            return new Seen(history.pauses(), history.plannedPauses(), history.now());
        });
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(Stream.concat(
                            seen.inForce.stream().map(pause -> Views.pause(pause, true)),
                            seen.planned.stream().map(pause -> Views.pause(pause, false)))
                    .toList()));
            return ExitCode.OK;
        }
        asOf.tell(out, look);
        if (seen.inForce.isEmpty() && seen.planned.isEmpty()) {
            out.println("Nothing is paused, and no pause is planned.");
            return ExitCode.OK;
        }
        Table table = new Table(look)
                .column("PAUSED")
                .column("FROM")
                .column("UNTIL")
                .column("OWED MEANWHILE")
                .fold()
                .column("BY")
                .column("BECAUSE");
        ZoneId zone = look.zoneOr(ZoneId.systemDefault());
        List<Pause> shown = shown(seen.planned);
        Stream.concat(seen.inForce.stream(), shown.stream())
                .forEach(pause -> table.row(
                        pause.scope(),
                        Times.near(pause.since(), seen.now, zone),
                        pause.until()
                                .map(end -> Times.near(end, seen.now, zone))
                                .orElse("resumed"),
                        pause.owed() == Pause.Owed.LEFT_OUT ? "left out" : "as ifMissed says",
                        pause.who(),
                        pause.because()
                                + pause.days()
                                        .map(days -> (pause.because().isEmpty() ? "" : " ") + "[calendar " + days + "]")
                                        .orElse("")));
        table.lines().forEach(out::println);
        if (shown.size() < seen.planned.size()) {
            out.println();
            out.println((seen.planned.size() - shown.size()) + " more are planned (--all)");
        }
        return ExitCode.OK;
    }

    private List<Pause> shown(List<Pause> planned) {
        Set<List<Object>> calendars = new HashSet<>();
        return all
                ? planned
                : planned.stream()
                        .filter(pause -> pause.days().isEmpty()
                                || calendars.add(
                                        List.of(pause.scope(), pause.days().get())))
                        .limit(SHOWN)
                        .toList();
    }
}
