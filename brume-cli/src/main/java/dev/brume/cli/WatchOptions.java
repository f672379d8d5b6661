package dev.brume.cli;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** Whether a looking command looks again and again. */
final class WatchOptions {
    private static final Duration SHORTEST = Duration.ofMillis(500);

    @Option(
            names = "--watch",
            paramLabel = "DURATION",
            arity = "0..1",
            fallbackValue = "2s",
            description = "Looks again every so often, until Ctrl-C; 2s if none is given.")
    private @Nullable Duration every;

    @Option(names = "--times", paramLabel = "N", description = "With --watch: ends after so many looks.")
    private @Nullable Integer times;

    boolean wanted() {
        if (every == null && times != null) {
            throw new UsageException("--times belongs to --watch");
        }
        return every != null;
    }

    Duration every() {
        Duration pause = Objects.requireNonNull(every, "asked for although nobody watches");
        if (pause.compareTo(SHORTEST) < 0) {
            throw new UsageException("--watch " + Durations.format(pause) + " is below 500ms");
        }
        return pause;
    }

    int times() {
        if (times != null && times < 1) {
            throw new UsageException("--times " + times + " is below 1");
        }
        return times == null ? Integer.MAX_VALUE : times;
    }
}
