package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.cli.desk.Lookout;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.history.JobView;
import dev.brume.insight.why.Answer;
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
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Says why a job runs or does not. */
@Command(
        name = "why",
        mixinStandardHelpOptions = true,
        description =
                "Says in one sentence why a job runs, waits or does nothing now, or what became of an occurrence and why; then"
                        + " the facts that it rests on.",
        footerHeading = "%nExamples:%n",
        footer = {"  brume why harbour-dues", "  brume why harbour-dues --at 2026-11-23T04:15"})
final class WhyCommand implements Callable<Integer> {
    @Parameters(paramLabel = "JOB", description = "The job: NAME or NAMESPACE/NAME.")
    private String job;

    @Option(
            names = "--at",
            paramLabel = "TIME",
            description =
                    "What became of the occurrence at that time, or less than a minute before: an instant, a local time of"
                            + " yours, or how long ago.")
    private @Nullable String at;

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

    @Override
    public Integer call() {
        JobName key = OrderOptions.key(job);
        if (at != null && asOf.isGiven()) {
            throw new UsageException(
                    "--at and --as-of do not go together: what became of an occurrence is told as it is known now");
        }
        Answer answer = options.ask(now -> {
            Lookout lookout = asOf.of(now, look);
            return answer(
                    lookout, lookout.history().job(key).orElseThrow(() -> KnownJobs.missing(lookout.history(), key)));
        });
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.answer(key, answer)));
            return ExitCode.OK;
        }
        asOf.tell(out, look);
        Wrap.lines(answer.sentence(), look.width(), 0).forEach(out::println);
        out.println();
        for (Answer.Fact fact : answer.facts()) {
            List<String> lines = Wrap.lines(fact.text(), Math.max(40, look.width() - 15), 0);
            for (int i = 0; i < lines.size(); i++) {
                out.println("  " + look.palette().faint(String.format("%-11s", i == 0 ? fact.name() : "")) + "  "
                        + lines.get(i));
            }
        }
        return ExitCode.OK;
    }

    private Answer answer(Lookout lookout, JobView view) {
        ZoneId zone = view.job().schedules().isEmpty()
                ? look.viewerZone()
                : look.zoneOr(view.job().schedules().get(0).zone());
        if (at == null) {
            return lookout.why(view, Optional.empty(), zone);
        }
        Instant now = lookout.history().now();
        Instant then = Times.parse("--at", at, look.viewerZone(), now);
        if (then.isAfter(now)) {
            throw new UsageException(
                    "--at " + then + " is still to come; brume preview --job " + job + " shows what will be owed");
        }
        return lookout.why(view, Optional.of(then), zone);
    }
}
