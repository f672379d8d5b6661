package dev.brume;

/**
 * What happens to a run whose instance died or lost its lease.
 *
 * @since 0.1.0
 */
public enum IfLost {
    /** It is run again elsewhere; after {@value #MOST_LOSSES} losses of one run it is given up all the same. */
    RUN_AGAIN,
    /** It ends as {@link Outcome#LOST}. */
    GIVE_UP;

    /** How often one run may be lost: work that kills every instance it meets must come to an end. */
    public static final int MOST_LOSSES = 5;
}
