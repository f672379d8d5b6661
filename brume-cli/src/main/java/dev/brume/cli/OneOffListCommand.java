package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Lists the one-offs that wait. */
@Command(
        name = "list",
        mixinStandardHelpOptions = true,
        description = "Lists the one-offs that wait, earliest first.",
        footerHeading = "%nExample:%n",
        footer = "  brume one-off list bridge-closure")
final class OneOffListCommand implements Callable<Integer> {
    @Parameters(arity = "0..1", paramLabel = "JOB", description = "Of this job alone: NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--prefix",
            paramLabel = "TEXT",
            defaultValue = "",
            description = "Of this job's, those whose keys begin so.")
    private String prefix;

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

    private record Found(List<OneOffView> views, Instant now) {}

    @Override
    public Integer call() {
        if (job == null && !prefix.isEmpty()) {
            throw new ParameterException(spec.commandLine(), "--prefix: name the job whose keys begin so");
        }
        int most = count.count();
        Optional<JobName> key = Optional.ofNullable(job).map(OrderOptions::key);
        Found found = options.look(history -> {
            key.ifPresent(name -> KnownJobs.check(history, name));
            OneOffFilter wanted = OneOffFilter.first(most + 1).withPrefix(prefix);
            return new Found(history.oneOffs(key.map(wanted::of).orElse(wanted)), history.now());
        });
        boolean more = found.views.size() > most;
        List<OneOffView> shown = more ? found.views.subList(0, most) : found.views;
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(shown.stream().map(Views::oneOff).toList()));
            return ExitCode.OK;
        }
        if (shown.isEmpty()) {
            out.println("No one-off waits.");
            return ExitCode.OK;
        }
        ZoneId viewer = look.viewerZone();
        Table table = new Table(look)
                .column("JOB")
                .column("KEY")
                .fold()
                .column("DUE")
                .column("")
                .column("RUN");
        for (OneOffView view : shown) {
            String relative = Times.relative(view.dueAt(), found.now);
            table.row(view.job(), view.key(), Times.withOffset(view.dueAt(), viewer), relative, view.run());
        }
        table.lines().forEach(out::println);
        out.println();
        out.println(
                look.palette().faint("times in " + Times.name(viewer) + (more ? "; there are more, see --count" : "")));
        return ExitCode.OK;
    }
}
