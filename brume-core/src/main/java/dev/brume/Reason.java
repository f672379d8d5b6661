package dev.brume;

import java.util.Arrays;
import java.util.Optional;

/**
 * Why occurrences were skipped, missed or paused, or how runs came to end so.
 *
 * <p>The record holds the name, which a newer version of the software may have written and this one not know: views give it as text.
 *
 * @since 0.1.0
 */
public enum Reason {
    /** Earlier runs of the job were unfinished, and it skips then. */
    BUSY,

    /**
     * Nobody decided about it when it fell due, but only after one that was due before it had been started late; that run was unfinished then, and the job
     * skips then.
     */
    DECIDED_LATE,

    /** As many occurrences as the job allows were waiting already. */
    TOO_MANY_WAITING,

    /** No instance planned it within the tolerance. */
    MISSED,

    /** Its instance died, and the job gives up then. */
    INSTANCE_DIED,

    /** Its instances died too often. */
    LOST_TOO_OFTEN,

    /** The job was dropped before its one-off was due. */
    JOB_DROPPED,

    /** The last attempt that the job allows, perhaps its only one, has failed. */
    NO_ATTEMPT_LEFT,

    /** It failed in a way that the job calls final, so no attempt that was left was made. */
    FINAL_FAILURE,

    /** Its work cannot read the payload, so no attempt could go better. */
    UNREADABLE_PAYLOAD,

    /** Someone ordered it: to cancel the run, or to leave the occurrence out. */
    BY_HAND,

    /** A newer occurrence took its place. */
    SUPERSEDED,

    /** It was due while its job was paused. */
    PAUSED,

    /** It could not begin within the time that its job allows. */
    TOO_LATE,

    /** No live instance served its lane when it was due on each. */
    NO_INSTANCE,

    /** It was owed by one instance, which stopped before it had ended. */
    INSTANCE_LEFT,

    /** A check that the application has set turned it down before it started. */
    TURNED_DOWN,

    /**
     * Nobody counted the occurrences: the job's definition threw, or could not be read, until it was changed; or it was changed, dropped or resumed after
     * so long an outage or pause that counting would have kept others waiting.
     */
    UNCOUNTED;

    /**
     * {@return the reason of a name, as the record has it}
     *
     * @param name as it was written; empty comes back for one that a newer version of the software has written
     */
    public static Optional<Reason> named(String name) {
        return Arrays.stream(values()).filter(each -> each.name().equals(name)).findFirst();
    }
}
