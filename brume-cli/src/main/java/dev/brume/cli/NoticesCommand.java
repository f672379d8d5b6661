package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists notices. */
@Command(
        name = "notices",
        mixinStandardHelpOptions = true,
        description = "Lists what was told and is to be told, newest first: to which channel, and whether it arrived."
                + " What is wrong now lists 'brume notices causes'.",
        synopsisSubcommandLabel = "[causes|channels|acknowledge|speak|test|again|rehearse]",
        subcommands = {
            NoticesCausesCommand.class,
            NoticesChannelsCommand.class,
            NoticesAcknowledgeCommand.class,
            NoticesSpeakCommand.class,
            NoticesTestCommand.class,
            NoticesAgainCommand.class,
            NoticesRehearseCommand.class
        },
        footerHeading = "%nStates:%n",
        footer = {
            "  WAITING      it is to be sent, for the first time or again",
            "  DELIVERED    its receiver has said that it has it",
            "  UNDELIVERED  it was refused, or became too old; 'brume notices again ID' sends it again",
            "",
            "Examples:",
            "  brume notices --state undelivered",
            "  brume notices causes",
            "  brume notices acknowledge 'failing harbour/tide-print' --for 4h --because 'the printer is being mended'",
            "  brume notices test harbour/duty",
            "  brume notices rehearse --definitions harbour.yaml"
        })
final class NoticesCommand implements Callable<Integer> {
    @Option(names = "--state", paramLabel = "STATE", description = "Only notices in it: ${COMPLETION-CANDIDATES}.")
    private @Nullable NoticeState state;

    @Option(names = "--cause", paramLabel = "CAUSE", description = "Only notices of this cause, as 'causes' lists it.")
    private @Nullable String cause;

    @Option(names = "--channel", paramLabel = "NAME", description = "Only notices to this channel, in full.")
    private @Nullable String channel;

    @Mixin
    private CountOption count;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<NoticeRow> notices, NoticeFigures figures, Instant now) {}

    @Override
    public Integer call() {
        Found found =
                options.look(history -> new Found(history.notices(filter()), history.noticeFigures(), history.now()));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(
                    JsonText.pretty(found.notices.stream().map(Views::notice).toList()));
            return ExitCode.OK;
        }
        out.println(summary(found.figures, found.now));
        if (!found.notices.isEmpty()) {
            out.println();
            print(found, out);
        }
        return ExitCode.OK;
    }

    private NoticeFilter filter() {
        NoticeFilter filter = NoticeFilter.newest(count.count());
        filter = state == null ? filter : filter.in(Set.of(state));
        filter = cause == null ? filter : filter.of(cause);
        return channel == null ? filter : filter.to(channel);
    }

    /** {@return how telling fares, in a line} */
    static String summary(NoticeFigures figures, Instant now) {
        String causes = figures.causes() == 0
                ? "Nothing that was told goes on"
                : figures.causes() + (figures.causes() == 1 ? " cause goes on" : " causes go on");
        String waiting = figures.waiting() == 0
                ? "nothing waits to be sent"
                : figures.waiting()
                        + (figures.waiting() == 1 ? " notice waits" : " notices wait")
                        + figures.oldestWaiting()
                                .map(at -> ", the oldest decided " + Times.relative(at, now))
                                .orElse("");
        String undelivered = figures.undelivered() == 0
                ? ""
                : "; " + figures.undelivered() + (figures.undelivered() == 1 ? " was" : " were") + " not delivered";
        return causes + "; " + waiting + undelivered + ".";
    }

    private void print(Found found, PrintWriter out) {
        Table table = new Table(look)
                .column("AT")
                .column("STATE")
                .column("KIND")
                .column("WHAT")
                .fold()
                .column("CHANNEL")
                .column("NOTICE");
        for (NoticeRow row : found.notices) {
            table.row(
                    Times.near(row.notice().at(), found.now, look.viewerZone()),
                    row.state() == NoticeState.WAITING && row.attempts() > 0 ? "WAITING (again)" : row.state(),
                    row.notice().kind().word(),
                    row.notice().title(),
                    row.notice().channel(),
                    row.notice().id());
            row.problem().ifPresent(problem -> table.below(trouble(row, problem, found.now)));
        }
        table.lines().forEach(out::println);
    }

    private static String trouble(NoticeRow row, String problem, Instant now) {
        return switch (row.state()) {
            case WAITING ->
                "tried " + times(row.attempts()) + ", again " + Times.relative(row.nextAt(), now) + ": " + problem;
            case DELIVERED -> "but: " + problem;
            case UNDELIVERED -> "tried " + times(row.attempts()) + ": " + problem;
        };
    }

    private static String times(int attempts) {
        return attempts == 1 ? "once" : attempts + " times";
    }
}
