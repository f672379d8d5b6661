package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Makes up for what a job's schedules owed and no run was made of. */
@Command(
        name = "backfill",
        mixinStandardHelpOptions = true,
        description =
                "Makes up for what a job's schedules owed in a past period, by the definition in force, and no run was ever"
                        + " made of. Shows what it would run; runs it with --yes.",
        footerHeading = "%nExample:%n",
        footer = "  brume backfill harbour/dues --from 2026-11-20 --until 2026-11-22 --yes")
final class BackfillCommand implements Callable<Integer> {
    private static final String NONE = "every occurrence of that period has a run";

    @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Option(
            names = "--from",
            paramLabel = "TIME",
            required = true,
            description = "Where the period begins, inclusive: 2026-11-20, 2026-11-20T09:00 in --zone, or with Z.")
    private String from;

    @Option(names = "--until", paramLabel = "TIME", description = "Where it ends, exclusive; now unless given.")
    private @Nullable String until;

    @Mixin
    private ZoneOption zone;

    @Option(names = "--yes", description = "Order the runs.")
    private boolean yes;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName key = OrderOptions.key(job);
        return options.order(desk -> {
            Instant now = desk.history().now();
            Instant begin = zone.parse("--from", from, now);
            Instant end = until == null ? now : zone.parse("--until", until, now);
            return yes ? ordered(key, desk.backfill(key, begin, end)) : shown(key, desk.missing(key, begin, end));
        });
    }

    private int shown(JobName key, List<Occurrence> missing) {
        missing.forEach(each -> report.meanwhile("  " + Times.withOffset(each.instant(), each.zone()) + " "
                + each.zone() + (each.notes().isEmpty() ? "" : "  " + NoteText.of(each))));
        return report.done(
                missing.isEmpty() ? NONE : missing.size() + " would run; order them with --yes",
                "job",
                key,
                "missing",
                missing.stream().map(each -> JsonOut.occurrence("", each)).toList());
    }

    private int ordered(JobName key, List<Long> runs) {
        String sentence = runs.isEmpty()
                ? NONE
                : "ordered " + runs.size() + (runs.size() == 1 ? " run: " : " runs: ") + runs.get(0)
                        + (runs.size() == 1 ? "" : " to " + runs.get(runs.size() - 1));
        return report.done(sentence, "job", key, "runs", runs);
    }
}
