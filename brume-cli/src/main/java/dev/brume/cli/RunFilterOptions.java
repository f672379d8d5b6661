package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.schedule.Nearest;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** Which runs are meant. */
final class RunFilterOptions {
    @Option(names = "--job", paramLabel = "JOB", description = "Only this job's, as NAME or NAMESPACE/NAME.")
    private @Nullable String job;

    @Option(
            names = "--outcome",
            paramLabel = "OUTCOME",
            description = "Only those that ended so: succeeded, failed, timed_out, cancelled, skipped, lost.")
    private @Nullable String outcome;

    @Option(
            names = "--state",
            paramLabel = "STATE",
            description = "Only those that have not ended and stand so: planned, waiting, running, backing_off.")
    private @Nullable String state;

    @Option(names = "--tag", paramLabel = "TAG", description = "Only those of jobs that carry the tag.")
    private @Nullable String tag;

    @Option(names = "--reason", paramLabel = "REASON", description = "Only those with this reason, such as BUSY.")
    private @Nullable String reason;

    @Option(names = "--on", paramLabel = "INSTANCE", description = "Only those that this instance had last.")
    private @Nullable String instance;

    @Option(
            names = "--origin",
            paramLabel = "ORIGIN",
            description = "Only those owed to this: schedule, catch_up, one_off, by_hand, rerun, backfill, follow_up.")
    private @Nullable String origin;

    @Option(names = "--error", paramLabel = "TEXT", description = "Only those whose last error holds this text.")
    private @Nullable String error;

    @Option(
            names = "--key",
            paramLabel = "KEY",
            description = "Only those of one-offs that were ordered under this key.")
    private @Nullable String oneOff;

    @Mixin
    private BetweenOptions times;

    /** {@return the job that is meant, if one is} */
    Optional<JobName> job() {
        return Optional.ofNullable(job).map(RunsCommand::key);
    }

    /** {@return whether anything narrows down which runs are meant} */
    boolean areGiven() {
        return !filter(1, ZoneOffset.UTC, Instant.EPOCH.plus(Duration.ofDays(36525)))
                .equals(RunFilter.newest(1));
    }

    /** {@return which runs are meant, so many at most} */
    RunFilter filter(int limit, ZoneId viewer, Instant now) {
        BetweenOptions.Between between = times.read(viewer, now);
        return Given.to(RunFilter.newest(limit))
                .and(job().orElse(null), RunFilter::of)
                .and(word("--outcome", outcome, Outcome.values()), RunFilter::withOutcome)
                .and(word("--state", state, RunState.values()), RunFilter::withState)
                .and(between.from().orElse(null), RunFilter::from)
                .and(between.until().orElse(null), RunFilter::until)
                .and(tag, RunFilter::withTag)
                .and(reason == null ? null : reason.toUpperCase(Locale.ROOT), RunFilter::withReason)
                .and(instance, RunFilter::on)
                .and(word("--origin", origin, Origin.values()), RunFilter::withOrigin)
                .and(error, RunFilter::withError)
                .and(oneOff, RunFilter::withKey)
                .filter();
    }

    private static <E extends Enum<E>> @Nullable E word(String option, @Nullable String text, E[] values) {
        if (text == null) {
            return null;
        }
        String wanted = text.toLowerCase(Locale.ROOT).replace('-', '_');
        List<String> known = Arrays.stream(values)
                .map(value -> value.name().toLowerCase(Locale.ROOT))
                .toList();
        int place = known.indexOf(wanted);
        if (place < 0) {
            throw new UsageException(option + " '" + text + "' is not one of " + String.join(", ", known)
                    + Nearest.to(wanted, known)
                            .map(near -> "; did you mean " + near + "?")
                            .orElse(""));
        }
        return values[place];
    }
}
