package dev.brume.cli;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.Change;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.insight.diff.DefinitionDiff;
import java.io.PrintWriter;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Lists the change log. */
@Command(
        name = "changes",
        mixinStandardHelpOptions = true,
        description =
                "Lists who changed or ordered what, when, from where and why, newest first; of changed definitions, what"
                        + " is different.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume changes --job harbour-dues",
            "  brume changes --kind PAUSED --from 24h",
            "  brume changes --below 1200 --format json"
        })
final class ChangesCommand implements Callable<Integer> {
    private static final String INDENT = " ".repeat(8);

    @Option(names = "--job", paramLabel = "JOB", description = "Only those about this job: NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--kind",
            paramLabel = "KIND",
            description = "Only those of a kind, such as DEFINED or RUN_ORDERED.")
    private @Nullable String kind;

    @Option(names = "--who", paramLabel = "NAME", description = "Only those of this user or instance.")
    private @Nullable String who;

    @Option(names = "--below", paramLabel = "LINE", description = "Goes on below this line, as the end of a list says.")
    private @Nullable Long below;

    @Mixin
    private BetweenOptions times;

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

    /** A line, with what is different if it changed a definition. */
    private record Shown(ChangeView view, List<String> difference) {}

    @Override
    public Integer call() {
        int most = count.count();
        List<Shown> shown = options.look(history -> {
            Instant now = history.now();
            BetweenOptions.Between between = times.read(look.viewerZone(), now);
            Optional<JobName> key = Optional.ofNullable(job).map(OrderOptions::key);
            key.ifPresent(name -> KnownJobs.check(history, name));
            ChangeFilter filter = Given.to(ChangeFilter.newest(most + 1))
                    .and(key.orElse(null), ChangeFilter::of)
                    .and(kind, ChangeFilter::withKind)
                    .and(who, ChangeFilter::by)
                    .and(between.from().orElse(null), ChangeFilter::from)
                    .and(between.until().orElse(null), ChangeFilter::until)
                    .and(below, ChangeFilter::before)
                    .filter();
            return history.changes(filter).stream()
                    .map(view -> new Shown(view, difference(history, view.change())))
                    .toList();
        });
        boolean more = shown.size() > most;
        List<Shown> page = more ? shown.subList(0, most) : shown;
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(page.stream().map(ChangesCommand::json).toList()));
        } else if (page.isEmpty()) {
            out.println("No changes match.");
        } else {
            page.forEach(line -> print(line, out));
            out.println();
            String rest =
                    "; for more: --below " + page.get(page.size() - 1).view.id();
            out.println(look.palette().faint("times in " + Times.name(look.viewerZone()) + (more ? rest : "")));
        }
        return ExitCode.OK;
    }

    /** Versions of a job that was dropped since are not looked for: its name may be another job's now. */
    private static List<String> difference(History history, Change change) {
        if (change.versionBefore().isEmpty()
                || change.versionAfter().isEmpty()
                || change.job().isEmpty()) {
            return List.of();
        }
        JobName key = change.job().get();
        Optional<Job> old = history.version(key, change.versionBefore().get());
        Optional<Job> next = history.version(key, change.versionAfter().get());
        return old.isPresent() && next.isPresent() ? DefinitionDiff.lines(old.get(), next.get()) : List.of();
    }

    private void print(Shown shown, PrintWriter out) {
        Palette palette = look.palette();
        ChangeView view = shown.view;
        Change change = view.change();
        String versions = change.versionBefore()
                        .map(number -> "version " + number + " -> ")
                        .orElse("version ")
                + change.versionAfter().map(String::valueOf).orElse("");
        String about = change.job().map(key -> "  " + key).orElse("")
                + (change.versionAfter().isPresent() ? "  " + versions : "");
        out.println(palette.faint(String.format("%6d", view.id())) + "  "
                + Times.withOffset(view.at(), look.viewerZone()) + "  " + palette.bold(change.kind()) + about);
        String rest = change.text()
                + palette.faint("  by " + change.who() + " from " + change.host())
                + (change.because().isEmpty() ? "" : "  because: " + change.because());
        Wrap.lines(rest, look.width() - INDENT.length(), 0).forEach(line -> out.println(INDENT + line));
        shown.difference.forEach(line -> out.println("          " + line));
    }

    private static Object json(Shown shown) {
        Map<String, Object> line = Views.change(shown.view);
        line.put("difference", shown.difference);
        return line;
    }
}
