package dev.brume;

/**
 * The state of a run that has no {@link Outcome} yet.
 *
 * <pre>
 * PLANNED -> RUNNING -> (ended)
 * WAITING -> PLANNED              a place became free
 * RUNNING -> BACKING_OFF -> RUNNING   the attempt failed and another is allowed
 * RUNNING -> PLANNED              handed back, or taken over from a dead instance
 * </pre>
 *
 * @since 0.1.0
 */
public enum RunState {
    /** Ready to be taken, or planned for later. */
    PLANNED,
    /** Waiting for a place: earlier runs of the job take all of them. */
    WAITING,
    /** Leased to an instance. */
    RUNNING,
    /** An attempt failed; waiting for the next. */
    BACKING_OFF
}
