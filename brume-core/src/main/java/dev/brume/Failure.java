package dev.brume;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The facts about why an attempt failed, beside the message.
 *
 * @param errorTypes the exception's class and those it extends, by full name; empty for programs and requests
 * @param exitCode of a program
 * @param status of an HTTP answer
 * @param pause the least wait before another attempt makes sense, if the other side has said so
 * @since 0.1.0
 */
public record Failure(
        List<String> errorTypes, Optional<Integer> exitCode, Optional<Integer> status, Optional<Duration> pause) {
    /** Nothing is known. */
    public static final Failure UNKNOWN = new Failure(List.of(), Optional.empty(), Optional.empty(), Optional.empty());

    private static final int DEEPEST = 20;

    /** Creates the facts. */
    public Failure {
        errorTypes = List.copyOf(errorTypes);
    }

    /**
     * The failure of a program that exited with a code.
     *
     * @param code what the operating system said, 128 and the signal if it was one
     */
    public static Failure exited(int code) {
        return new Failure(List.of(), Optional.of(code), Optional.empty(), Optional.empty());
    }

    /**
     * The failure of a request that was answered with a status.
     *
     * @param status 100 to 599
     * @param pause how long the answer asked to wait (Retry-After, RFC 9110); empty if it did not
     */
    public static Failure answered(int status, Optional<Duration> pause) {
        return new Failure(List.of(), Optional.empty(), Optional.of(status), pause);
    }

    /** {@return whether no further attempt can go better, whatever the job's policy} */
    public boolean isFinal() {
        return errorTypes.contains(UnreadablePayloadException.class.getName());
    }

    /** The failure of work that threw. */
    public static Failure thrown(Throwable error) {
        List<String> types = new ArrayList<>();
        for (Class<?> type = error.getClass();
                type != Object.class && types.size() < DEEPEST;
                type = type.getSuperclass()) {
            types.add(type.getName());
        }
        Optional<Duration> pause =
                error instanceof RetryAfterException later ? Optional.of(later.until()) : Optional.empty();
        return new Failure(types, Optional.empty(), Optional.empty(), pause);
    }
}
