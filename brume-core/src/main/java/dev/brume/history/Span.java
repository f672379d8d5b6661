package dev.brume.history;

import dev.brume.Reason;
import java.time.Instant;

/**
 * A stretch in which occurrences were passed over together.
 *
 * @param job the job's id
 * @param version the definition by which they were owed
 * @param from inclusive
 * @param until exclusive
 * @param first the first occurrence in it; its beginning, if they were not counted
 * @param last the last occurrence in it; its end, if they were not counted
 * @param count how many; 1 if they were not counted
 * @param reason why
 * @since 0.1.0
 */
public record Span(
        long job, int version, Instant from, Instant until, Instant first, Instant last, long count, String reason) {

    /** {@return whether its occurrences were counted} */
    public boolean isCounted() {
        return !reason.equals(Reason.UNCOUNTED.name());
    }

    /** {@return how many occurrences, in words: "1 occurrence", "7 occurrences", "occurrences that nobody counted"} */
    public String occurrences() {
        if (!isCounted()) {
            return "occurrences that nobody counted";
        }
        return count + (count == 1 ? " occurrence" : " occurrences");
    }
}
