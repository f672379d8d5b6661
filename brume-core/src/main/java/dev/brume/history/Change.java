package dev.brume.history;

import dev.brume.JobName;
import java.util.Optional;

/**
 * A line of the change log; the store adds the time.
 *
 * @param kind what was done, one word
 * @param who the user or instance
 * @param host from where
 * @param job the job it concerns
 * @param versionBefore the version before
 * @param versionAfter the version after
 * @param text the rest, in words
 * @param because why, in the words of who ordered it; empty if nobody said
 * @since 0.1.0
 */
public record Change(
        String kind,
        String who,
        String host,
        Optional<JobName> job,
        Optional<Integer> versionBefore,
        Optional<Integer> versionAfter,
        String text,
        String because) {

    /** A line that nobody gave a reason for. */
    public Change(
            String kind,
            String who,
            String host,
            Optional<JobName> job,
            Optional<Integer> versionBefore,
            Optional<Integer> versionAfter,
            String text) {
        this(kind, who, host, job, versionBefore, versionAfter, text, "");
    }

    /** A line that concerns no job, or no version of one. */
    public static Change of(String kind, String who, String host, String text) {
        return of(kind, who, host, text, "");
    }

    /** A line that concerns no job, or no version of one, and the reason that was given for it. */
    public static Change of(String kind, String who, String host, String text, String because) {
        return new Change(kind, who, host, Optional.empty(), Optional.empty(), Optional.empty(), text, because);
    }
}
