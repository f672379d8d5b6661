package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.definitions.DefinitionFile;
import dev.brume.diff.DefinitionDiff;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Shows what a definition file would change. */
@Command(
        name = "diff",
        mixinStandardHelpOptions = true,
        description =
                "Shows what a definition file would change on what is in force: jobs, calendars, limits, and how the coming"
                        + " occurrences move. Changes nothing.",
        footerHeading = "%nExit codes: 0 nothing would change, 1 something would, 2 the file is wrong.%n%nExamples:%n",
        footer = {"  brume diff harbour.yaml", "  brume diff harbour.yaml --ahead 31d --format json"})
final class DiffCommand implements Callable<Integer> {
    @Parameters(paramLabel = "FILE", description = "YAML or JSON.")
    private Path file;

    @Option(
            names = "--ahead",
            paramLabel = "DURATION",
            defaultValue = "7d",
            description = "How far to compare coming occurrences; default: ${DEFAULT-VALUE}.")
    private String ahead;

    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        DefinitionSet set = DefinitionFile.read(file).definitions();
        Duration window = Durations.parse(ahead);
        DefinitionDiff diff = options.look(history -> DefinitionDiff.of(set, history, history.now(), window));
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonOut.pretty(DiffPrinter.json(set, diff)));
        } else {
            new DiffPrinter(look, out).print(set, diff);
            warnIfOutdated(spec, set, diff);
        }
        return diff.isNone() ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    static void warnIfOutdated(CommandSpec spec, DefinitionSet set, DefinitionDiff diff) {
        if (diff.isOutdated(set)) {
            spec.commandLine()
                    .getErr()
                    .println(
                            "brume: revision " + set.revision().getAsLong() + " of " + set.source() + " is older than "
                                    + diff.revision().getAsLong()
                                    + ", which was applied before, so nothing of it would be applied (state a higher revision:)");
        }
    }
}
