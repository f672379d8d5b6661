package dev.brume.insight.deadline;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Optional;

/**
 * How it stands with a deadline: of the newest occurrence that is due, or that the job's chain is at.
 *
 * @param planned the occurrence, of the job that begins the chain
 * @param deadline by when the job must have ended
 * @param expected when it ended, or will end by what its runs and those before it usually take; empty if too little is known
 * @param state how it stands
 * @param waitsFor what has to end before it, and how far that is; empty if it waits for nothing
 * @since 0.1.0
 */
public record Forecast(
        Instant planned, Instant deadline, Optional<Instant> expected, State state, Optional<String> waitsFor) {

    /** How it stands with a deadline. */
    public enum State {
        /** It ended in time. */
        MET,
        /** It goes on, and will end in time as far as can be told. */
        IN_TIME,
        /** It will probably end too late. */
        AT_RISK,
        /** It did not end in time. */
        MISSED
    }

    /**
     * {@return it in a sentence that begins with the job}
     *
     * @param job its name
     * @param now the database's clock
     */
    public String words(String job, Instant now) {
        String by = "its deadline of " + deadline;
        return switch (state) {
            case MET -> job + " ended in time for " + by;
            case IN_TIME ->
                job
                        + expected.map(end -> " will end about " + seconds(end) + ", in time for ")
                                .orElse(" goes on, with ")
                        + by
                        + waits();
            case AT_RISK ->
                job
                        + expected.filter(end -> end.isAfter(deadline))
                                .map(end -> " will end about " + seconds(end) + ", "
                                        + Durations.about(Duration.between(deadline, end)) + " after " + by)
                                .orElse(" will not end by " + by)
                        + waits();
            case MISSED ->
                expected.filter(end -> !end.isAfter(now))
                        .map(end -> job + " ended " + Durations.about(Duration.between(deadline, end)) + " after " + by)
                        .orElse(job + " has not ended by " + by + waits());
        };
    }

    private static Instant seconds(Instant at) {
        return at.truncatedTo(ChronoUnit.SECONDS);
    }

    private String waits() {
        return waitsFor.map(what -> "; it waits for " + what).orElse("");
    }
}
