package dev.brume;

import dev.brume.internal.text.Texts;
import java.time.Instant;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;

/**
 * Something an instance did or noticed.
 *
 * @param kind what happened
 * @param at when, by the database's clock as far as the instance knows it
 * @param instance the instance that says so
 * @param job the job it is about, if one
 * @param run the run it is about, if one
 * @param text the rest, in words; control characters in it are made visible
 */
public record Event(Kind kind, Instant at, String instance, Optional<JobName> job, OptionalLong run, String text) {

    /** The kinds of events. */
    public enum Kind {
        /** The instance opened a session. */
        JOINED,
        /** The instance takes no more work and will leave. */
        DRAINING,
        /** The instance closed its session. */
        LEFT,
        /** A job was defined or changed. */
        DEFINED,
        /** A run was leased and its attempt begins. */
        STARTED,
        /** A run was made of what was owed. */
        PLANNED,
        /** A run said how far it is. */
        PROGRESS,
        /** A run ended well. */
        SUCCEEDED,
        /** A run ended badly. */
        FAILED,
        /** A run ended because it was cancelled, or because a newer one took its place. */
        CANCELLED,
        /** An attempt failed and another will follow. */
        BACKING_OFF,
        /** An occurrence waits for a place. */
        WAITING,
        /** An occurrence was skipped. */
        SKIPPED,
        /** Occurrences were missed. */
        MISSED,
        /** A dead instance's run was taken over. */
        TAKEN_OVER,
        /** A run was given back by a stopping instance. */
        HANDED_BACK,
        /** The instance may have lost its lease. */
        LEASE_LOST,
        /** A completion came too late and was refused. */
        REFUSED,
        /** Zone rules are newer than those the database's occurrences were computed with. */
        ZONE_RULES,
        /** Something needs a person. */
        PROBLEM,
        /** A problem is over: the database can be reached again. */
        RECOVERED
    }

    /** Creates an event. */
    public Event {
        Objects.requireNonNull(kind, "kind");
        text = Texts.visible(Objects.requireNonNull(text, "text"));
    }
}
