package dev.brume.cli;

import dev.brume.Attempt;
import dev.brume.cli.desk.Lookout;
import dev.brume.cli.desk.Records;
import dev.brume.cli.desk.Seen;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Shows one run in full. */
@Command(
        name = "show",
        mixinStandardHelpOptions = true,
        description = "Shows one run in full: attempts, instances, fences, times, payload, result, output, errors.",
        footerHeading = "%nExample:%n",
        footer = "  brume show 17 --data brume-demo")
final class ShowCommand implements Callable<Integer> {
    @Parameters(paramLabel = "RUN", description = "The run's id, as brume runs lists it.")
    private long id;

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

    private record Found(RunView run, Seen seen, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.ask(now -> {
            Lookout at = asOf.of(now, look);
            Seen seen = at.shown(id).orElseThrow(() -> KnownRuns.missing(at.history(), id));
            return new Found(Records.run(seen), seen, at.history().now());
        });
        PrintWriter out = spec.commandLine().getOut();
        asOf.tell(out, look);
        if (look.json()) {
            out.println(JsonText.pretty(found.seen.whole()));
        } else {
            print(found, out);
            found.seen.maybe("why").ifPresent(why -> {
                out.println();
                Wrap.lines(why, look.width(), 0).forEach(out::println);
            });
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
        RunView run = found.run;
        Instant now = found.now;
        Palette palette = look.palette();
        ZoneId own = ZoneId.of(run.owed().zone());
        String stand = run.outcome()
                .map(Enum::name)
                .or(() -> run.state().map(Enum::name))
                .orElse("");
        out.println(palette.bold("Run " + run.id() + " of " + run.job()) + "  " + palette.word(stand)
                + run.reason().map(reason -> "  " + reason).orElse(""));
        out.println();
        fact(
                out,
                "planned",
                Times.withOffset(run.owed().planned(), own) + " " + own + ", "
                        + Times.relative(run.owed().planned(), now));
        ZoneId viewer = look.viewerZone();
        if (!viewer.equals(own) && !Times.isUtc(viewer)) {
            fact(out, "", Times.withOffset(run.owed().planned(), viewer) + " " + viewer + " (you)");
        }
        if (!Times.isUtc(own)) {
            fact(out, "", run.owed().planned() + " (UTC)");
        }
        run.owed()
                .note()
                .ifPresent(note -> fact(
                        out,
                        "note",
                        note.equals(RunRow.Owed.WAITED)
                                ? "WAITED for a place"
                                : note.replace(",", ", ") + ", the rule named "
                                        + run.owed().nominal()));
        fact(out, "origin", run.owed().origin() + ", definition version " + run.version() + ", lane " + run.lane());
        run.owed().orderedBy().ifPresent(who -> fact(out, "ordered by", who));
        run.owed().parent().ifPresent(parent -> fact(out, "follows", "run " + parent + " (brume show " + parent + ")"));
        run.progress().ifPresent(progress -> fact(out, "progress", progress.toString()));
        if (run.outcome().isEmpty() && run.attempts().isEmpty()) {
            fact(out, "ready", Times.relative(run.readyAt(), now));
        }
        Views.firstStart(run).ifPresent(late -> fact(out, "began", Durations.about(late) + " after it was planned"));
        run.payload().ifPresent(payload -> fact(out, "payload", payload));
        run.result().ifPresent(result -> fact(out, "result", result));
        found.seen
                .maybeWithin("erased")
                .ifPresent(erased -> fact(
                        out,
                        "erased",
                        erased.text("content") + ", at " + Times.withOffset(erased.instant("at"), viewer) + " by "
                                + erased.text("who") + ": " + erased.text("because")));
        for (Attempt attempt : run.attempts()) {
            print(attempt, Optional.ofNullable(run.outputs().get(attempt.number())), now, out);
        }
    }

    /** Precisely, in UTC; in the zone that was asked for, to the second. */
    private String time(Instant at) {
        return look.saysZone() ? Times.withOffset(at, look.viewerZone()) : at.toString();
    }

    private void print(Attempt attempt, Optional<Output> output, Instant now, PrintWriter out) {
        Palette palette = look.palette();
        String end = attempt.end().map(Enum::name).orElse("RUNNING");
        Duration took = Duration.between(attempt.startedAt(), attempt.endedAt().orElse(now));
        out.println();
        out.println(palette.bold("Attempt " + attempt.number()) + "  " + palette.word(end) + " "
                + (attempt.end().isPresent() ? "after " : "for ") + Durations.about(took));
        fact(out, "instance", attempt.instance() + ", session " + attempt.session());
        fact(out, "fence", Long.toString(attempt.fence()));
        fact(out, "started", time(attempt.startedAt()));
        attempt.endedAt().ifPresent(at -> fact(out, "ended", time(at)));
        attempt.error().ifPresent(error -> fact(out, "error", error.replace("\n", "\n             ")));
        attempt.trace().ifPresent(trace -> fact(out, "trace", trace));
        output.ifPresent(printed -> {
            fact(
                    out,
                    "output",
                    printed.bytes()
                            + (attempt.end().isPresent() ? " bytes" : " bytes so far")
                            + (printed.omitted() > 0 ? ", " + printed.omitted() + " of them left out" : ""));
            printed.text().lines().forEach(line -> out.println("    | " + line));
        });
    }

    private void fact(PrintWriter out, String name, String value) {
        out.println("  " + look.palette().faint(String.format("%-10s", name)) + "  " + value);
    }

    static String firstLine(String text) {
        int end = text.indexOf('\n');
        return end < 0 ? text : text.substring(0, end);
    }
}
