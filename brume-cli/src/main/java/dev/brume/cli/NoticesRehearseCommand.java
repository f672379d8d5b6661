package dev.brume.cli;

import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.history.History;
import dev.brume.history.TellingRow;
import dev.brume.insight.watch.NoticeRehearsal;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Says what would have been told. */
@Command(
        name = "rehearse",
        mixinStandardHelpOptions = true,
        description =
                "Says what would have been told in the time that is over, had the rules of a file been in force, or by those that"
                        + " are: every notice, and how many of each kind to each channel. Nothing is sent. It goes by the ledger, which knows"
                        + " nothing of single attempts, instances and lanes.")
final class NoticesRehearseCommand implements Callable<Integer> {
    private static final int SHOWN = 40;

    @Option(
            names = "--definitions",
            paramLabel = "FILE",
            description = "The file whose rules are tried; those in force unless given.")
    private @Nullable Path file;

    @Option(
            names = "--back",
            paramLabel = "DURATION",
            defaultValue = "30d",
            description = "Over how much of the past; default: ${DEFAULT-VALUE}.")
    private Duration back;

    @Option(names = "--all", description = "Prints all notices rather than the last 40.")
    private boolean all;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    private record Found(List<Notice> told, Telling telling, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.look(this::rehearse);
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(
                    found.told.stream().map(InsightViews::rehearsed).toList()));
            return ExitCode.OK;
        }
        print(found, out);
        return ExitCode.OK;
    }

    private Found rehearse(History history) {
        Instant now = history.now();
        Telling telling =
                file == null ? inForce(history) : DefinitionFile.read(file).telling();
        return new Found(NoticeRehearsal.of(history, telling, now.minus(back), now), telling, now);
    }

    private static Telling inForce(History history) {
        List<Channel> channels = new ArrayList<>();
        List<NoticeRule> rules = new ArrayList<>();
        for (TellingRow row : history.tellings()) {
            channels.addAll(row.telling().channels());
            rules.addAll(row.telling().rules());
        }
        return new Telling(channels, rules);
    }

    private void print(Found found, PrintWriter out) {
        if (found.telling.rules().isEmpty()) {
            out.println("There is no rule of notices " + (file == null ? "in force." : "in " + file + "."));
            return;
        }
        if (found.told.isEmpty()) {
            out.println("Nothing would have been told.");
            return;
        }
        int hidden = all ? 0 : Math.max(0, found.told.size() - SHOWN);
        if (hidden > 0) {
            out.println(hidden + " earlier ones; --all prints them");
        }
        Table table = new Table(look)
                .column("AT")
                .column("KIND")
                .column("WHAT")
                .fold()
                .column("CHANNEL");
        found.told
                .subList(hidden, found.told.size())
                .forEach(notice -> table.row(
                        Times.dayAndTime(notice.at(), look.viewerZone()),
                        notice.kind().word(),
                        notice.title(),
                        notice.channel()));
        table.lines().forEach(out::println);
        Map<String, Integer> counts = new TreeMap<>();
        found.told.forEach(
                notice -> counts.merge(notice.channel() + "  " + notice.kind().word(), 1, Integer::sum));
        out.println();
        Table sums = new Table(look).column("CHANNEL").column("KIND").numbers("NOTICES");
        counts.forEach((key, count) -> sums.row(key.split("  ", 2)[0], key.split("  ", 2)[1], count));
        sums.lines().forEach(out::println);
        out.println(DiffPrinter.count(found.told.size(), "notice") + " in " + Durations.about(back));
    }
}
