package dev.brume;

/** The reasons a ledger line or a span may carry. */
public final class Reasons {
    /** Earlier runs of the job were unfinished, and it skips then. */
    public static final String BUSY = "BUSY";

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

    private Reasons() {}
}
