package dev.brume;

/**
 * The reasons a ledger line or a span may carry.
 *
 * @since 0.1.0
 */
public final class Reasons {
    /** Earlier runs of the job were unfinished, and it skips then. */
    public static final String BUSY = "BUSY";

    /**
     * Nobody decided about it when it fell due, but only after one that was due before it had been started late; that run was unfinished then, and the job
     * skips then.
     */
    public static final String DECIDED_LATE = "DECIDED_LATE";

    /** As many occurrences as the job allows were waiting already. */
    public static final String TOO_MANY_WAITING = "TOO_MANY_WAITING";

    /** No instance planned it within the tolerance. */
    public static final String MISSED = "MISSED";

    /** Its instance died, and the job gives up then. */
    public static final String INSTANCE_DIED = "INSTANCE_DIED";

    /** Its instances died too often. */
    public static final String LOST_TOO_OFTEN = "LOST_TOO_OFTEN";

    /** The job was dropped before its one-off was due. */
    public static final String JOB_DROPPED = "JOB_DROPPED";

    /** The last attempt that the job allows, perhaps its only one, has failed. */
    public static final String NO_ATTEMPT_LEFT = "NO_ATTEMPT_LEFT";

    /** It failed in a way that the job calls final, so no attempt that was left was made. */
    public static final String FINAL_FAILURE = "FINAL_FAILURE";

    /** Its work cannot read the payload, so no attempt could go better. */
    public static final String UNREADABLE_PAYLOAD = "UNREADABLE_PAYLOAD";

    /** Someone ordered it: to cancel the run, or to leave the occurrence out. */
    public static final String BY_HAND = "BY_HAND";

    /** A newer occurrence took its place. */
    public static final String SUPERSEDED = "SUPERSEDED";

    /** It was due while its job was paused. */
    public static final String PAUSED = "PAUSED";

    /** It could not begin within the time that its job allows. */
    public static final String TOO_LATE = "TOO_LATE";

    /** No live instance served its lane when it was due on each. */
    public static final String NO_INSTANCE = "NO_INSTANCE";

    /** It was owed by one instance, which stopped before it had ended. */
    public static final String INSTANCE_LEFT = "INSTANCE_LEFT";

    /** A check that the application has set turned it down before it started. */
    public static final String TURNED_DOWN = "TURNED_DOWN";

    /**
     * Nobody counted the occurrences: the job's definition threw, or could not be read, until it was changed; or it was changed, dropped or resumed after
     * so long an outage or pause that counting would have kept others waiting.
     */
    public static final String UNCOUNTED = "UNCOUNTED";

    /** It waited for a place before it could begin: a note beside a run, however that ended. */
    public static final String WAITED = "WAITED";

    private Reasons() {}
}
