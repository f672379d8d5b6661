package dev.brume;

import java.time.Duration;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * The facts about why an attempt failed, beside the message.
 *
 * @param errorTypes the exception's class and those it extends, then those of what caused it, by full name; empty for programs and requests
 * @param exitCode of a program
 * @param status of an HTTP answer
 * @param pause the least wait before another attempt makes sense, if the other side has said so
 * @since 0.1.0
 */
public record Failure(
        List<String> errorTypes, Optional<Integer> exitCode, Optional<Integer> status, Optional<Duration> pause) {
    /** Nothing is known. */
    public static final Failure UNKNOWN = new Failure(List.of(), Optional.empty(), Optional.empty(), Optional.empty());

    private static final int MOST_TYPES = 60;
    private static final int MOST_CAUSES = 10;

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

    /** {@return why no further attempt can go better, whatever the job's policy; empty if one may} */
    public Optional<Reason> finalReason() {
        if (errorTypes.contains(UnreadablePayloadException.class.getName())) {
            return Optional.of(Reason.UNREADABLE_PAYLOAD);
        }
        return errorTypes.contains(FinalFailureException.class.getName())
                ? Optional.of(Reason.FINAL_FAILURE)
                : Optional.empty();
    }

    /** The failure of work that threw. */
    public static Failure thrown(Throwable error) {
        Set<String> types = new LinkedHashSet<>();
        Optional<Duration> pause = Optional.empty();
        List<Throwable> chain = Stream.iterate(error, Objects::nonNull, Throwable::getCause)
                .limit(MOST_CAUSES)
                .toList();
        for (Throwable each : chain) {
            for (Class<?> type = each.getClass();
                    type != Object.class && types.size() < MOST_TYPES;
                    type = type.getSuperclass()) {
                types.add(type.getName());
            }
            if (pause.isEmpty() && each instanceof RetryAfterException later) {
                pause = Optional.of(later.until());
            }
        }
        return new Failure(List.copyOf(types), Optional.empty(), Optional.empty(), pause);
    }
}
