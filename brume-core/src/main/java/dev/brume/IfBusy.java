package dev.brume;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What happens to an occurrence that is due while earlier runs of its job are unfinished.
 *
 * @since 0.1.0
 */
public final class IfBusy {
    /** The greatest bound. */
    public static final int MOST = 10_000;

    /** The policies. */
    public enum Choice {
        /** The occurrence is skipped and the ledger says why. */
        SKIP,
        /** The occurrence waits until the earlier run has ended. */
        WAIT,
        /** The occurrence runs beside the others. */
        ALONGSIDE,
        /** The earlier run is asked to stop, and the occurrence starts when it has ended; one that waited is skipped. */
        SUPERSEDE
    }

    private final Choice choice;
    private final int bound;

    private IfBusy(Choice choice, int bound) {
        if (bound < 1 || bound > MOST) {
            throw new IllegalArgumentException("ifBusy: " + bound + " is outside 1 to " + MOST);
        }
        this.choice = choice;
        this.bound = bound;
    }

    /** Skips the occurrence; the default. */
    public static IfBusy skip() {
        return new IfBusy(Choice.SKIP, 1);
    }

    /**
     * Lets at most so many occurrences wait; those beyond are skipped.
     *
     * @param atMost 1 to {@value #MOST}
     * @throws IllegalArgumentException if it is outside that range
     */
    public static IfBusy waiting(int atMost) {
        return new IfBusy(Choice.WAIT, atMost);
    }

    /**
     * Lets at most so many runs be unfinished at once; those beyond are skipped.
     *
     * @param atMost 1 to {@value #MOST}, the first one included
     * @throws IllegalArgumentException if it is outside that range
     */
    public static IfBusy alongside(int atMost) {
        return new IfBusy(Choice.ALONGSIDE, atMost);
    }

    /** Asks the earlier run to stop and starts when it has ended. */
    public static IfBusy supersede() {
        return new IfBusy(Choice.SUPERSEDE, 1);
    }

    /** {@return how many runs of the job may be unfinished at once, waiting ones not counted} */
    public int places() {
        return choice == Choice.ALONGSIDE ? bound : 1;
    }

    /** {@return the policy} */
    public Choice choice() {
        return choice;
    }

    /** {@return how many runs may wait with {@code WAIT}, and how many may be unfinished at once with {@code ALONGSIDE}} */
    public int bound() {
        return bound;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof IfBusy that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(choice, bound);
    }

    @Override
    public String toString() {
        return "IfBusy" + parts();
    }
}
