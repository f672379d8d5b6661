package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.insight.diff.DefinitionDiff;
import java.io.PrintWriter;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
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
    @Mixin
    private ChangingFile file;

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ChangingFile.Wanted wanted = file.read();
        DefinitionSet set = wanted.set();
        DefinitionDiff diff = options.look(wanted::diff);
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.difference(set, diff)));
        } else {
            new DiffPrinter(look, file.all(), out).print(set, diff);
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
