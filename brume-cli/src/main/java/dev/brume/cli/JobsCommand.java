package dev.brume.cli;

import dev.brume.FollowUp;
import dev.brume.JobKey;
import dev.brume.Outcome;
import dev.brume.port.JobView;
import dev.brume.schedule.Schedule;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
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
        description = "Lists the jobs by name, one line each: how the last run ended, and when the next is due.",
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
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Mixin
    private WatchOptions watch;

    @Spec
    private CommandSpec spec;

    private static final int PAGE = 50;

    private record Found(List<JobView> all, Instant now, long instances) {}

    @Override
    public Integer call() {
        Found found = options.look(history -> {
            Instant now = history.now();
            long alive = history.sessions(false).stream()
                    .filter(session -> !session.row().lapsedAt(now))
                    .count();
            return new Found(history.jobs(), now, alive);
        });
        if (count != null && count < 1) {
            throw new UsageException("--count " + count + " is below 1");
        }
        List<JobView> wanted = wanted(found.all);
        List<JobView> page = wanted.stream()
                .limit(count == null ? look.json() ? Integer.MAX_VALUE : PAGE : count)
                .toList();
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonOut.pretty(page.stream().map(JsonOut::job).toList()));
        } else if (found.all.isEmpty()) {
            out.println("No jobs are defined. Define some: brume serve --definitions FILE");
        } else if (page.isEmpty()) {
            out.println("None of the " + found.all.size() + " jobs is like that.");
        } else {
            print(found, page, wanted.size() - page.size(), out);
        }
        return ExitCode.OK;
    }

    private List<JobView> wanted(List<JobView> all) {
        Optional<JobKey> behind = Optional.ofNullable(after).map(OrderOptions::key);
        Pattern pattern = Pattern.compile(
                name == null
                        ? ".*"
                        : Stream.of(name.split("\\*", -1)).map(Pattern::quote).collect(Collectors.joining(".*")));
        int begin = behind.map(key -> 1 + placeOf(key, all)).orElse(0);
        return all.subList(begin, all.size()).stream()
                .filter(view -> pattern.matcher(view.key().name()).matches())
                .filter(view -> namespace == null || view.key().namespace().equals(namespace))
                .filter(view -> tag == null || view.job().tags().contains(tag))
                .filter(view -> !paused || view.row().paused())
                .filter(view -> !failing
                        || view.lastEnd()
                                .filter(end -> end.outcome() != Outcome.SUCCEEDED && end.outcome() != Outcome.SKIPPED)
                                .isPresent())
                .toList();
    }

    private static int placeOf(JobKey key, List<JobView> all) {
        for (int i = 0; i < all.size(); i++) {
            if (all.get(i).key().equals(key)) {
                return i;
            }
        }
        throw new UsageException("--after " + key + ": there is no such job (any more); begin without it");
    }

    private void print(Found found, List<JobView> page, int more, PrintWriter out) {
        Table table = new Table(look.palette()).column("JOB", 18);
        if (inFull) {
            table.column("SCHEDULE", Math.max(19, look.width() - 61))
                    .column("LAST RUN", 14)
                    .column("NEXT RUN", 22);
        } else {
            table.column("LAST RUN", 28).column("NEXT RUN", 22);
        }
        Map<JobKey, List<String>> followed = inFull ? followed(found.all) : Map.of();
        String between = inFull ? "\n" : "  ";
        for (JobView view : page) {
            String last = view.lastEnd()
                    .map(end -> end.outcome() + between + Times.relative(end.at(), found.now))
                    .orElse("never");
            if (inFull) {
                table.row(
                        view.key(),
                        words(view, followed.getOrDefault(view.key(), List.of())),
                        last,
                        next(view, found.now));
            } else {
                table.row(view.key(), last, next(view, found.now).replaceFirst("\n.*", ""));
            }
        }
        table.lines().forEach(out::println);
        out.println();
        if (more > 0) {
            out.println(look.palette()
                    .faint(more + " more: --after " + page.get(page.size() - 1).key() + ", or --count N"));
        }
        String instances = found.instances == 0
                ? "no instance is alive"
                : found.instances + (found.instances == 1 ? " instance is alive" : " instances are alive");
        out.println(look.palette()
                .faint(found.all.size() + (found.all.size() == 1 ? " job" : " jobs")
                        + (inFull ? ", next runs in each job's own zone" : "") + "; " + instances));
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

    private static Map<JobKey, List<String>> followed(List<JobView> jobs) {
        Map<JobKey, List<String>> words = new HashMap<>();
        jobs.forEach(other -> other.job()
                .followUps()
                .forEach(followUp -> words.computeIfAbsent(followUp.job(), key -> new ArrayList<>())
                        .add("after " + other.key() + ends(followUp.on()))));
        return words;
    }

    private static String ends(FollowUp.On on) {
        return switch (on) {
            case SUCCESS -> " succeeded";
            case FAILURE -> " failed";
            case END -> " ended";
        };
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
