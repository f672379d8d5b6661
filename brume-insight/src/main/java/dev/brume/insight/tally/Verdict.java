package dev.brume.insight.tally;

import dev.brume.Outcome;
import dev.brume.Reason;
import java.util.EnumSet;
import java.util.Optional;
import java.util.Set;

/**
 * The fate of an occurrence that a schedule owed.
 *
 * @since 0.1.0
 */
public enum Verdict {
    /** A run began within the tolerance of the definition in force. */
    ON_TIME,
    /** A run began after that. */
    LATE,
    /** It did not run, for a reason on record that lies in the job or with a person. */
    SKIPPED,
    /** It did not run, because nobody could run it in time. */
    MISSED,
    /** It did not run, because the job was paused. */
    PAUSED,
    /** A run waits for its time, a place or a worker. */
    WAITING,
    /** Retention may have removed what was on record of it. */
    BEYOND_RETENTION,
    /** It is due, and the cursor has not come so far yet. */
    NOT_YET,
    /** Nothing is on record, though the cursor has passed it. */
    UNEXPLAINED;

    private static final Set<Reason> OF_MISSED =
            EnumSet.of(Reason.MISSED, Reason.TOO_LATE, Reason.NO_INSTANCE, Reason.DECIDED_LATE);

    /**
     * {@return whether a run was left out, by a pause, its job's policy or an order, rather than missed or begun}
     *
     * @param outcome how it ended; empty if it has not
     * @param reason why, as the record has it
     */
    public static boolean isLeftOut(Optional<Outcome> outcome, Optional<String> reason) {
        return outcome.filter(Outcome.SKIPPED::equals).isPresent()
                && reason.map(Verdict::ofReason).orElse(SKIPPED) != MISSED;
    }

    /** {@return what it means for an occurrence that it did not run for a reason on record: it was paused, missed or skipped} */
    public static Verdict ofReason(String reason) {
        Optional<Reason> known = Reason.named(reason);
        if (known.filter(Reason.PAUSED::equals).isPresent()) {
            return PAUSED;
        }
        return known.filter(OF_MISSED::contains).isPresent() ? MISSED : SKIPPED;
    }
}
