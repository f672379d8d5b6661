package dev.brume.notice;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Something that is to be told where a rule asks for it.
 *
 * @param kind what it is
 * @param subject what it concerns: a job's name, an instance's, a lane's
 * @param job its name, id and tags, if it concerns one
 * @param at when it happened
 * @param times how often
 * @param token tells it from others of its cause: a run's number, an occurrence
 * @param print what it looks like: it is the same again if that is the same
 * @param title in a line
 * @param facts the rest, by name, in their order
 * @since 0.1.0
 */
public record Sighting(
        NoticeKind kind,
        String subject,
        Optional<OfJob> job,
        Instant at,
        long times,
        String token,
        String print,
        String title,
        Map<String, String> facts) {

    /** The job that something concerns. */
    public record OfJob(long id, JobName name, Set<String> tags) {}

    /** {@return the key of its cause} */
    public String key() {
        return kind.trouble().of(subject);
    }
}
