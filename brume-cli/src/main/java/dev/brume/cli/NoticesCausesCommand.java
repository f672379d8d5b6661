package dev.brume.cli;

import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.CauseRow;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists causes of notices. */
@Command(
        name = "causes",
        mixinStandardHelpOptions = true,
        description =
                "Lists what is wrong now and was told, those seen last first: since when, how often, and who knows.")
final class NoticesCausesCommand implements Callable<Integer> {
    @Option(names = "--over", description = "Those that are over too.")
    private boolean over;

    @Mixin
    private CountOption count;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    private record Found(List<CauseRow> causes, Instant now) {}

    @Override
    public Integer call() {
        Found found = options.look(history -> new Found(history.causes(over, count.count()), history.now()));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(found.causes.stream().map(Views::cause).toList()));
        } else if (found.causes.isEmpty()) {
            out.println("Nothing that was told goes on.");
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
        Table table = new Table(look)
                .column("CAUSE")
                .fold()
                .column("SINCE")
                .column("LAST SEEN")
                .numbers("TIMES")
                .numbers("NOT TOLD")
                .column("TOLD TO");
        for (CauseRow cause : found.causes) {
            table.row(
                    cause.key(),
                    Times.near(cause.openedAt(), found.now, look.viewerZone()),
                    Times.relative(cause.lastAt(), found.now),
                    cause.count(),
                    cause.told().stream().mapToLong(CauseRow.Told::folded).sum(),
                    cause.told().isEmpty()
                            ? "nobody yet"
                            : cause.told().stream().map(CauseRow.Told::channel).collect(Collectors.joining(", ")));
            if (!cause.last().isEmpty()) {
                table.below(cause.last());
            }
            cause.silence()
                    .ifPresent(silence -> table.below("acknowledged by " + silence.who()
                            + (silence.because().isEmpty() ? "" : ", because " + silence.because())
                            + silence.until()
                                    .map(until -> ", until " + Times.near(until, found.now, look.viewerZone()))
                                    .orElse(", until it is over or changes")));
            cause.closedAt().ifPresent(at -> table.below("over since " + Times.near(at, found.now, look.viewerZone())));
        }
        table.lines().forEach(out::println);
    }
}
