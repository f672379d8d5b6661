package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;

/**
 * A change that was committed, for those who follow what happens.
 *
 * @param position behind it
 * @param at the database's clock, shortly before it was committed
 * @param kind of change
 * @param job it concerns
 * @param run it concerns
 * @param facts the rest, by name; instants in ISO 8601
 * @since 0.1.0
 */
public record FeedEvent(
        FeedPosition position,
        Instant at,
        Kind kind,
        Optional<JobName> job,
        Optional<Long> run,
        Map<String, String> facts) {

    /** The kinds of changes. */
    public enum Kind {
        /** A run was planned. Facts: planned, state, origin, lane. */
        PLANNED,
        /** A run that waited may be claimed. */
        LET_GO,
        /** A run was leased. Facts: planned, attempt, session, fence. */
        STARTED,
        /** A run said how far it is. Facts: percent, message. */
        PROGRESS,
        /** An attempt ended, and the run is to be tried again. Facts: attempt, instance, end, state, readyAt. */
        ATTEMPT_ENDED,
        /** A run ended. Facts: planned if it never was live; outcome, reason, attempt, instance, startedAt, endedAt. */
        ENDED,
        /** Occurrences were passed over. Facts: reason, first, last, count. */
        PASSED_OVER,
        /** The change log has a line more. Facts: change, who, text. */
        CHANGED
    }
}
