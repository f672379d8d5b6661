package dev.brume.http;

import dev.brume.schedule.Durations;
import java.time.Duration;

/**
 * How much one request may be, and how many there may be at once. What is beyond is refused with a message that says the number.
 *
 * @param body the longest body, in bytes
 * @param document the longest document of definitions, in bytes
 * @param depth how deep JSON may be nested
 * @param query the longest query of an address, in characters
 * @param requests how many requests are answered at once
 * @param waiting how many requests wait for the end of a run at once
 * @param streams how many streams of events there are at once
 * @param buffer how many events a stream may be behind
 * @param occurrences how many occurrences a preview or a check looks at
 * @param seconds how long a preview, check, difference or rehearsal may take
 * @since 0.1.0
 */
public record HttpLimits(
        int body,
        int document,
        int depth,
        int query,
        int requests,
        int waiting,
        int streams,
        int buffer,
        int occurrences,
        Duration seconds) {
    /** What holds unless something else is said. */
    public static final HttpLimits USUAL =
            new HttpLimits(1_000_000, 4_000_000, 40, 4_000, 64, 200, 600, 2_000, 10_000, Duration.ofSeconds(20));

    /**
     * Checks the numbers.
     *
     * @throws IllegalArgumentException if one is below 1
     */
    public HttpLimits {
        int[] all = {body, document, depth, query, requests, waiting, streams, buffer, occurrences};
        for (int number : all) {
            if (number < 1) {
                throw new IllegalArgumentException("limits: " + number + " is below 1");
            }
        }
        Durations.checked("seconds", seconds, Duration.ofSeconds(1), Duration.ofHours(1));
    }

    /** {@return the same with another number of requests at once} */
    public HttpLimits requests(int most) {
        return new HttpLimits(body, document, depth, query, most, waiting, streams, buffer, occurrences, seconds);
    }

    /** {@return the same with another number of streams at once} */
    public HttpLimits streams(int most) {
        return new HttpLimits(body, document, depth, query, requests, waiting, most, buffer, occurrences, seconds);
    }

    /** {@return the same with another number of events that a stream may be behind} */
    public HttpLimits buffer(int most) {
        return new HttpLimits(body, document, depth, query, requests, waiting, streams, most, occurrences, seconds);
    }
}
