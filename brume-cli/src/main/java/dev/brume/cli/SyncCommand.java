package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.EditConflictException;
import dev.brume.cli.desk.Desk;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.insight.diff.DefinitionDiff;
import java.io.Console;
import java.io.PrintWriter;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Puts a definition file in force. */
@Command(
        name = "sync",
        mixinStandardHelpOptions = true,
        description =
                "Puts a definition file in force, after showing what that changes: new and changed jobs, calendars and limits, and"
                        + " how coming occurrences move. Jobs that the file had defined and no longer has are dropped; their history"
                        + " stays. Asks before it changes anything.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0  done, or nothing to change",
            "  1  nothing was changed: someone else changed something meanwhile, a newer revision is in force,"
                    + " or the answer was no",
            "  2  the file is wrong, or there is nobody to ask and no --yes",
            "",
            "Examples:",
            "  brume sync harbour.yaml --because \"more attempts for the dues\"",
            "  brume sync harbour.yaml --yes --keep-gone"
        })
final class SyncCommand implements Callable<Integer> {
    private static final int LINES = 1000;

    @Mixin
    private ChangingFile file;

    @Option(names = "--yes", description = "Do not ask.")
    private boolean yes;

    @Option(names = "--create", description = "Make the database, or its tables, if there are none yet.")
    private boolean create;

    @Option(
            names = "--take-over",
            description = "Define jobs that another file or program defines so far; without it --yes refuses to.")
    private boolean takeOver;

    @Option(names = "--keep-gone", description = "Leave jobs that are no longer in the file as they are.")
    private boolean keepGone;

    @Mixin
    private OrderOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        ChangingFile.Wanted wanted = file.read();
        return create ? options.orderOrMake(desk -> sync(desk, wanted)) : options.order(desk -> sync(desk, wanted));
    }

    private int sync(Desk desk, ChangingFile.Wanted wanted) {
        DefinitionSet set = wanted.set();
        DefinitionDiff diff = wanted.diff(desk.history());
        PrintWriter out = spec.commandLine().getOut();
        if (!look.json()) {
            new DiffPrinter(look, file.all(), out).print(set, diff);
        }
        if (diff.isOutdated(set)) {
            DiffCommand.warnIfOutdated(spec, set, diff);
            return ExitCode.NOT_FOUND;
        }
        if (diff.isNone()) {
            report(out, set, diff, "nothing to change", List.of());
            return ExitCode.OK;
        }
        if (!diff.notAllowed().isEmpty()) {
            throw new UsageException(diff.notAllowed().get(0)
                    + (diff.notAllowed().size() > 1
                            ? " (and " + (diff.notAllowed().size() - 1) + " more)"
                            : "")
                    + "; nothing was changed (brume allowance shows what each namespace may have)");
        }
        if (yes && !takeOver) {
            Sources.checkOwn(diff, set);
        }
        if (!yes && !agreed(out)) {
            spec.commandLine().getErr().println("brume: nothing was changed");
            return ExitCode.NOT_FOUND;
        }
        long last = lastChange(desk);
        try {
            desk.define(wanted.file(), diff, !keepGone);
        } catch (EditConflictException e) {
            spec.commandLine().getErr().println("brume: " + e.getMessage());
            return ExitCode.NOT_FOUND;
        }
        List<Long> lines = linesAfter(desk, last);
        report(out, set, diff, "done", lines);
        return ExitCode.OK;
    }

    private boolean agreed(PrintWriter out) {
        Console console = System.console();
        if (console == null) {
            throw new UsageException(
                    "there is nobody to ask here; say --yes to put it in force, or look with brume diff");
        }
        out.flush();
        String answer = console.readLine("Put this in force? [y/N] ");
        return answer != null && answer.strip().toLowerCase(Locale.ROOT).matches("y|yes");
    }

    private static long lastChange(Desk desk) {
        return desk.history().changes(ChangeFilter.newest(1)).stream()
                .mapToLong(ChangeView::id)
                .max()
                .orElse(0);
    }

    /** Its own lines of the change log; others may have written some in between. */
    private static List<Long> linesAfter(Desk desk, long last) {
        TreeSet<Long> lines = new TreeSet<>();
        ChangeFilter own = ChangeFilter.newest(LINES).by(desk.who());
        List<Long> page = linesAfter(desk, own, last);
        while (lines.addAll(page) && page.size() == LINES) {
            page = linesAfter(desk, own.before(lines.first()), last);
        }
        return List.copyOf(lines);
    }

    private static List<Long> linesAfter(Desk desk, ChangeFilter filter, long last) {
        return desk.history().changes(filter).stream()
                .map(ChangeView::id)
                .filter(line -> line > last)
                .toList();
    }

    private void report(PrintWriter out, DefinitionSet set, DefinitionDiff diff, String what, List<Long> lines) {
        if (look.json()) {
            Map<String, Object> map = InsightViews.difference(set, diff);
            map.put("result", what);
            map.put("changeLines", lines);
            out.println(JsonText.pretty(map));
            return;
        }
        out.println(
                lines.isEmpty()
                        ? what
                        : what + "; on record as " + DiffPrinter.count(lines.size(), "line") + " of the change log, "
                                + lines.get(0) + (lines.size() == 1 ? "" : " to " + lines.get(lines.size() - 1))
                                + " (brume changes)");
    }
}
