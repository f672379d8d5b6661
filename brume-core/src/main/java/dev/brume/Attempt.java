package dev.brume;

import java.time.Instant;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;

/**
 * One try of a run.
 *
 * @param number which try, from 1
 * @param instance the name of the instance
 * @param session the life of that instance
 * @param fence the fence of the lease
 * @param startedAt when the lease began
 * @param endedAt when it ended, or was found to have ended; empty while it runs
 * @param end how it ended; empty while it runs
 * @param error what went wrong, in words
 * @param trace the W3C trace context ({@code traceparent}) of its span; empty while it runs, and if nobody traced it
 * @since 0.1.0
 */
public record Attempt(
        int number,
        String instance,
        UUID session,
        long fence,
        Instant startedAt,
        Optional<Instant> endedAt,
        Optional<AttemptEnd> end,
        Optional<String> error,
        Optional<String> trace) {

    /** Creates an attempt. */
    public Attempt {
        Objects.requireNonNull(instance, "instance");
        Objects.requireNonNull(session, "session");
        Objects.requireNonNull(startedAt, "startedAt");
    }

    /** Creates an attempt that goes on. */
    public static Attempt begun(int number, String instance, UUID session, long fence, Instant startedAt) {
        return new Attempt(
                number,
                instance,
                session,
                fence,
                startedAt,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }

    /** {@return a copy that has ended} */
    public Attempt ended(Instant at, AttemptEnd how, Optional<String> why) {
        return new Attempt(number, instance, session, fence, startedAt, Optional.of(at), Optional.of(how), why, trace);
    }

    /** {@return a copy that says otherwise what went wrong; empty says nothing} */
    public Attempt withError(Optional<String> other) {
        return new Attempt(number, instance, session, fence, startedAt, endedAt, end, other, trace);
    }

    /** {@return a copy with the trace context of its span} */
    public Attempt withTrace(Optional<String> context) {
        return new Attempt(number, instance, session, fence, startedAt, endedAt, end, error, context);
    }

    /** {@return whether this try counts against the attempts a job allows} */
    public boolean counts() {
        return end.filter(how -> how == AttemptEnd.FAILED || how == AttemptEnd.TIMED_OUT)
                .isPresent();
    }
}
