package dev.brume.internal.decide;

import dev.brume.Origin;
import dev.brume.Reason;
import dev.brume.history.AfterEnd;
import dev.brume.history.Span;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * The decisions about all occurrences that a job owed up to an instant.
 *
 * @param decisions one for each occurrence that gets a run or a ledger line of its own
 * @param missed the occurrences passed over together
 * @param cursor up to where everything is decided now
 * @param nextAt the next occurrence
 * @param supersedes whether the job's earlier runs are to make room for the newest
 * @param endAwaited the occurrence whose run is to end before the schedule that goes by ends owes another
 * @param afterEnd where that schedule stands after this, if that changed without such a run
 */
public record Plan(
        List<Decision> decisions,
        Optional<Span> missed,
        Instant cursor,
        Optional<Instant> nextAt,
        boolean supersedes,
        Optional<Instant> endAwaited,
        Optional<AfterEnd> afterEnd) {

    /** {@return the plan with a later cursor: what lies between is decided otherwise} */
    public Plan skipping(Instant later, Optional<Instant> next) {
        return new Plan(decisions, missed, later, next, supersedes, endAwaited, afterEnd);
    }

    /** The decision about one occurrence. */
    public enum Verdict {
        /** It has a place and may start. */
        START,
        /** It waits for a place. */
        HOLD,
        /** It is skipped. */
        SKIP
    }

    /**
     * The decision on one occurrence.
     *
     * @param occurrence which
     * @param verdict what becomes of it
     * @param reason why it is skipped
     * @param origin what its run is owed to
     */
    public record Decision(Occurrence occurrence, Verdict verdict, Optional<Reason> reason, Origin origin) {}
}
