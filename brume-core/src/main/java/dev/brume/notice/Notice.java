package dev.brume.notice;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * Something that is told to one channel.
 *
 * @param id the same however often it is sent: receivers know by it what they have already
 * @param cause what it belongs to, such as {@code failing harbour/tide-print}
 * @param channel in full
 * @param kind what it tells
 * @param job that it concerns, if it concerns one
 * @param at when it was decided
 * @param title one line
 * @param facts the rest by name, in their order; values are texts, instants in ISO 8601
 * @since 0.1.0
 */
public record Notice(
        String id,
        String cause,
        String channel,
        NoticeKind kind,
        Optional<JobName> job,
        Instant at,
        String title,
        Map<String, String> facts) {

    /** Keeps the facts in their order. */
    public Notice {
        facts = Collections.unmodifiableMap(new LinkedHashMap<>(facts));
    }
}
