package dev.brume;

/**
 * The result of putting a definition in force.
 *
 * @param name the job
 * @param kind whether anything was written
 * @param version the version in force now; 0 if there is no such job
 * @since 0.1.0
 */
public record Defined(JobName name, Kind kind, int version) {

    /** The kinds of result. */
    public enum Kind {
        /** The job is new. */
        NEW,
        /** A new version is in force. */
        CHANGED,
        /** Nothing was written. */
        UNCHANGED,
        /** Nothing was written: a higher revision of its source, or a newer version of Brume, has put another in force, or the job has been renamed. */
        OUTDATED,
        /** Nothing was written: only new jobs were wanted, and there is one of that name. */
        ALREADY_THERE,
        /** Nothing was written: only jobs that are there were wanted, and there is none of that name. */
        NOT_THERE
    }
}
