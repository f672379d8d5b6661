package dev.brume;

import dev.brume.internal.text.Texts;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/**
 * Something an instance did or noticed: the facts, and a text for people.
 *
 * <p>Immutable: each {@code with} method returns another one.
 *
 * @since 0.1.0
 */
public final class Event {
    private final Kind kind;
    private final Instant at;
    private final String instance;
    private final String text;
    private final @Nullable JobName job;
    private final @Nullable Long run;
    private final @Nullable Integer attempt;
    private final @Nullable Instant planned;
    private final @Nullable Duration took;
    private final @Nullable Outcome outcome;
    private final @Nullable Reason reason;
    private final long count;

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

    private Event(
            Kind kind,
            Instant at,
            String instance,
            String text,
            @Nullable JobName job,
            @Nullable Long run,
            @Nullable Integer attempt,
            @Nullable Instant planned,
            @Nullable Duration took,
            @Nullable Outcome outcome,
            @Nullable Reason reason,
            long count) {
        this.kind = Objects.requireNonNull(kind, "kind");
        this.at = Objects.requireNonNull(at, "at");
        this.instance = Objects.requireNonNull(instance, "instance");
        this.text = text;
        this.job = job;
        this.run = run;
        this.attempt = attempt;
        this.planned = planned;
        this.took = took;
        this.outcome = outcome;
        this.reason = reason;
        this.count = count;
    }

    /**
     * An event about no job.
     *
     * @param at by the database's clock, as far as the instance knows it
     * @param instance that did or noticed it
     * @param text for people; control characters in it are made visible
     */
    public static Event of(Kind kind, Instant at, String instance, String text) {
        String visible = Texts.visible(Objects.requireNonNull(text, "text"));
        return new Event(kind, at, instance, visible, null, null, null, null, null, null, null, 1);
    }

    /** {@return the event, about a job} */
    public Event withJob(JobName name) {
        return new Event(kind, at, instance, text, name, run, attempt, planned, took, outcome, reason, count);
    }

    /** {@return the event, about a run} */
    public Event withRun(long number) {
        return new Event(kind, at, instance, text, job, number, attempt, planned, took, outcome, reason, count);
    }

    /**
     * {@return the event, about an attempt of the run}
     *
     * @param number from 1
     */
    public Event withAttempt(int number) {
        return new Event(kind, at, instance, text, job, run, number, planned, took, outcome, reason, count);
    }

    /** {@return the event, with the instant that the run was planned for} */
    public Event withPlanned(Instant instant) {
        return new Event(kind, at, instance, text, job, run, attempt, instant, took, outcome, reason, count);
    }

    /** {@return the event, with how long the attempt took} */
    public Event withTook(Duration length) {
        return new Event(kind, at, instance, text, job, run, attempt, planned, length, outcome, reason, count);
    }

    /** {@return the event, with how the run ended} */
    public Event withOutcome(Outcome how) {
        return new Event(kind, at, instance, text, job, run, attempt, planned, took, how, reason, count);
    }

    /** {@return the event, with the reason that is on record} */
    public Event withReason(Reason why) {
        return new Event(kind, at, instance, text, job, run, attempt, planned, took, outcome, why, count);
    }

    /**
     * {@return the event, about several occurrences}
     *
     * @param occurrences how many, at least 1
     */
    public Event withCount(long occurrences) {
        return new Event(kind, at, instance, text, job, run, attempt, planned, took, outcome, reason, occurrences);
    }

    /** {@return what happened} */
    public Kind kind() {
        return kind;
    }

    /** {@return when, by the database's clock as far as the instance knows it} */
    public Instant at() {
        return at;
    }

    /** {@return the instance that did or noticed it} */
    public String instance() {
        return instance;
    }

    /** {@return the rest, for people} */
    public String text() {
        return text;
    }

    /** {@return how many occurrences it is about; 1 unless it tells of several} */
    public long count() {
        return count;
    }

    /** {@return the job it is about} */
    public Optional<JobName> job() {
        return Optional.ofNullable(job);
    }

    /** {@return the run it is about} */
    public OptionalLong run() {
        return run == null ? OptionalLong.empty() : OptionalLong.of(run);
    }

    /** {@return the attempt that began or ended, from 1} */
    public OptionalInt attempt() {
        return attempt == null ? OptionalInt.empty() : OptionalInt.of(attempt);
    }

    /** {@return the instant that the run was planned for, where the event says so} */
    public Optional<Instant> planned() {
        return Optional.ofNullable(planned);
    }

    /** {@return how long the attempt took that ended} */
    public Optional<Duration> took() {
        return Optional.ofNullable(took);
    }

    /** {@return how the run ended} */
    public Optional<Outcome> outcome() {
        return Optional.ofNullable(outcome);
    }

    /** {@return the reason that is on record for that end} */
    public Optional<Reason> reason() {
        return Optional.ofNullable(reason);
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Event that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<@Nullable Object> parts() {
        return Arrays.asList(kind, at, instance, text, job, run, attempt, planned, took, outcome, reason);
    }

    @Override
    public String toString() {
        return kind + (job == null ? "" : " " + job) + (run == null ? "" : " #" + run) + " at " + at + " on " + instance
                + ": " + text;
    }
}
