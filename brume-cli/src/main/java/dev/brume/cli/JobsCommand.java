package dev.brume.cli;

import dev.brume.FollowUp;
import dev.brume.JobName;
import dev.brume.cli.desk.Lookout;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobView;
import dev.brume.schedule.Schedule;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.HashMap;
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

/** Lists the jobs. */
@Command(
        name = "jobs",
        mixinStandardHelpOptions = true,
        description = "Lists the jobs, one line each: how the last run ended, and when the next is due.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume jobs --data brume-demo",
            "  brume jobs --tag telemetry --failing",
            "  brume jobs --name 'ferry-*' --long"
        })
final class JobsCommand implements Callable<Integer> {
    @Option(names = "--name", paramLabel = "NAME", description = "Only jobs of this name; * stands for any letters.")
    private @Nullable String name;

    @Option(names = "--namespace", paramLabel = "NAMESPACE", description = "Only jobs of this namespace.")
    private @Nullable String namespace;

    @Option(names = "--tag", paramLabel = "TAG", description = "Only jobs that carry the tag.")
    private @Nullable String tag;

    @Option(names = "--failing", description = "Only jobs whose last run did not succeed.")
    private boolean failing;

    @Option(names = "--paused", description = "Only jobs that are paused.")
    private boolean paused;

    @Option(
            names = "--sort",
            paramLabel = "ORDER",
            defaultValue = "NAME",
            description = "NAME, or NEXT for those first that are due next. Default: ${DEFAULT-VALUE}.")
    private JobOrder sort;

    @Option(names = "--long", description = "With the schedule in words.")
    private boolean inFull;

    @Option(
            names = "--count",
            paramLabel = "N",
            description = "How many at most, from 1; 50 for people, all for programs unless given.")
    private @Nullable Integer count;

    @Option(names = "--after", paramLabel = "JOB", description = "Goes on behind this job, as the end of a list says.")
    private @Nullable String after;

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

    private static final int PAGE = 50;

    private record Found(
            List<JobView> page,
            boolean more,
            Map<JobName, List<String>> follows,
            Instant now,
            long all,
            long instances) {}

    @Override
    public Integer call() {
        if (count != null && count < 1) {
            throw new UsageException("--count " + count + " is below 1");
        }
        Found found = options.ask(at -> find(asOf.of(at, look)));
        PrintWriter out = spec.commandLine().getOut();
        asOf.tell(out, look);
        if (look.json()) {
            out.println(JsonText.pretty(found.page.stream().map(Views::job).toList()));
        } else if (found.all == 0) {
            out.println("No jobs are defined. Define some: brume serve --definitions FILE");
        } else if (found.page.isEmpty()) {
            out.println("None of the " + found.all + " jobs is like that.");
        } else {
            print(found, out);
        }
        return ExitCode.OK;
    }

    private Found find(Lookout lookout) {
        History history = lookout.history();
        Instant now = history.now();
        int most = count == null ? look.json() ? Integer.MAX_VALUE - 1 : PAGE : count;
        List<JobView> found = history.jobs(filter(most + 1));
        List<JobView> page = found.stream().limit(most).toList();
        Map<JobName, List<String>> follows = new HashMap<>();
        if (inFull && !look.json()) {
            page.forEach(view -> follows.put(view.name(), follows(view.name(), history)));
        }
        return new Found(page, found.size() > most, follows, now, history.jobCount(), lookout.alive());
    }

    private void print(Found found, PrintWriter out) {
        Table table = new Table(look).column("JOB").fold().column("LAST RUN").column("NEXT RUN");
        for (JobView view : found.page) {
            String last = view.lastEnd()
                    .map(end -> end.outcome() + "  " + Times.relative(end.at(), found.now))
                    .orElse("never");
            table.row(view.name(), last, next(view, found.now));
            if (inFull) {
                table.belowInFull(words(view, found.follows.getOrDefault(view.name(), List.of())));
            }
        }
        table.lines().forEach(out::println);
        out.println();
        if (found.more) {
            JobName last = found.page.get(found.page.size() - 1).name();
            out.println(look.palette().faint("There are more: --after " + last + ", or --count N"));
        }
        String instances = found.instances == 0
                ? "no instance is alive"
                : found.instances + (found.instances == 1 ? " instance is alive" : " instances are alive");
        out.println(look.palette()
                .faint(found.all + (found.all == 1 ? " job" : " jobs") + (isNarrowed() ? " in all" : "")
                        + (inFull && !look.saysZone() ? ", next runs in each job's own zone" : "") + "; " + instances));
    }

    /** A job without a schedule may follow others; that is what brings it about. */
    private static String words(JobView view, List<String> follows) {
        String after = String.join(", ", follows);
        if (after.isEmpty()) {
            return view.job().scheduleInWords();
        }
        String words = view.job().schedules().isEmpty() ? "" : view.job().scheduleInWords() + "; ";
        return words.isEmpty() ? "A" + after.substring(1) : words + after;
    }

    private static List<String> follows(JobName job, History history) {
        return history.jobs(JobFilter.first(Integer.MAX_VALUE).followedBy(job)).stream()
                .flatMap(other -> other.job().followUps().stream()
                        .filter(followUp -> followUp.job().equals(job))
                        .map(followUp -> "after " + other.name() + ends(followUp.on())))
                .toList();
    }

    private JobFilter filter(int limit) {
        JobFilter given = Given.to(JobFilter.first(limit))
                .and(name, JobFilter::named)
                .and(namespace, JobFilter::within)
                .and(tag, JobFilter::withTag)
                .and(after == null ? null : OrderOptions.key(after), JobFilter::after)
                .filter()
                .in(sort);
        JobFilter alsoFailing = failing ? given.thatFail() : given;
        return paused ? alsoFailing.thatArePaused() : alsoFailing;
    }

    private boolean isNarrowed() {
        return name != null || namespace != null || tag != null || failing || paused;
    }

    private static String ends(FollowUp.On on) {
        return switch (on) {
            case SUCCESS -> " succeeded";
            case FAILURE -> " failed";
            case END -> " ended";
        };
    }

    private String next(JobView view, Instant now) {
        if (view.row().paused()) {
            return "paused"
                    + view.row()
                            .pause()
                            .turnsAt()
                            .map(end -> ", goes on " + Times.relative(end, now))
                            .orElse("");
        }
        Optional<Instant> due = view.row().nextOccurrence();
        if (due.isEmpty()) {
            if (view.job().schedules().isEmpty()) {
                return "no schedule";
            }
            return !view.job().enabled()
                    ? "disabled"
                    : view.row()
                            .pause()
                            .turnsAt()
                            .map(begin -> "pause " + Times.relative(begin, now))
                            .orElse("none to come");
        }
        Instant next = due.get();
        ZoneId zone = view.job()
                .next(next.minusNanos(1))
                .filter(occurrence -> occurrence.instant().equals(next))
                .map(occurrence -> occurrence.zone())
                .or(() -> view.job().byEnds().map(Schedule::zone))
                .orElse(ZoneOffset.UTC);
        String relative = next.isAfter(now) ? Times.relative(next, now) : "due " + Times.relative(next, now);
        return relative + (inFull ? ", " + Times.near(next, now, look.zoneOr(zone)) : "");
    }
}
