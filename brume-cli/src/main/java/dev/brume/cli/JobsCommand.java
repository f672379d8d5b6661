package dev.brume.cli;

import dev.brume.FollowUp;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobView;
import dev.brume.schedule.Schedule;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Lists the jobs. */
@Command(
        name = "jobs",
        mixinStandardHelpOptions = true,
        description = "Lists the jobs: schedule in words, last run, next run.",
        footerHeading = "%nExample:%n",
        footer = "  brume jobs --data brume-demo")
final class JobsCommand implements Callable<Integer> {
    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private record Found(List<JobView> jobs, Instant now, long instances) {}

    @Override
    public Integer call() {
        Found found = options.look(history -> {
            Instant now = history.now();
            long alive = history.sessions(false).stream()
                    .filter(session -> !session.row().lapsedAt(now))
                    .count();
            return new Found(history.jobs(), now, alive);
        });
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonOut.pretty(found.jobs.stream().map(JsonOut::job).toList()));
        } else if (found.jobs.isEmpty()) {
            out.println("No jobs are defined. Define some: brume serve --definitions FILE");
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private void print(Found found, PrintWriter out) {
        int width = look.width();
        int words = Math.max(19, width - 61);
        Table table = new Table(look.palette())
                .column("JOB", 18)
                .column("SCHEDULE", words)
                .column("LAST RUN", 14)
                .column("NEXT RUN", 22);
        for (JobView view : found.jobs) {
            table.row(
                    view.row().key(),
                    words(view, found.jobs),
                    view.lastEnd().map(end -> last(end, found.now)).orElse("never"),
                    next(view, found.now));
        }
        table.lines().forEach(out::println);
        out.println();
        String instances = found.instances == 0
                ? "no instance is alive"
                : found.instances + (found.instances == 1 ? " instance is alive" : " instances are alive");
        out.println(look.palette()
                .faint(found.jobs.size() + (found.jobs.size() == 1 ? " job, " : " jobs, ")
                        + "next runs in each job's own zone; " + instances));
    }

    /** A job without a schedule may follow others; that is what brings it about. */
    private static String words(JobView view, List<JobView> jobs) {
        String after = jobs.stream()
                .flatMap(other -> other.job().followUps().stream()
                        .filter(followUp -> followUp.job().equals(view.row().key()))
                        .map(followUp -> "after " + other.row().key() + ends(followUp.on())))
                .collect(Collectors.joining(", "));
        if (after.isEmpty()) {
            return view.job().scheduleInWords();
        }
        String words = view.job().schedules().isEmpty() ? "" : view.job().scheduleInWords() + "; ";
        return words.isEmpty() ? "A" + after.substring(1) : words + after;
    }

    private static String ends(FollowUp.On on) {
        return switch (on) {
            case SUCCESS -> " succeeded";
            case FAILURE -> " failed";
            case END -> " ended";
        };
    }

    private static String last(JobAdvance.LastEnd end, Instant now) {
        return end.outcome() + "\n" + Times.relative(end.at(), now);
    }

    private static String next(JobView view, Instant now) {
        if (view.row().paused()) {
            return "paused";
        }
        if (view.row().nextAt().isEmpty()) {
            return view.job().schedules().isEmpty()
                    ? "no schedule"
                    : view.job().enabled() ? "none to come" : "disabled";
        }
        Instant next = view.row().nextAt().get();
        ZoneId zone = view.job()
                .next(next.minusNanos(1))
                .filter(occurrence -> occurrence.instant().equals(next))
                .map(occurrence -> occurrence.zone())
                .or(() -> view.job().byEnds().map(Schedule::zone))
                .orElse(ZoneOffset.UTC);
        String relative = next.isAfter(now) ? Times.relative(next, now) : "due " + Times.relative(next, now);
        return relative + "\n" + Times.near(next, now, zone);
    }
}
