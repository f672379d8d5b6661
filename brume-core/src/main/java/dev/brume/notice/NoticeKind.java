package dev.brume.notice;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;

/**
 * What a notice tells.
 *
 * @since 0.1.0
 */
public enum NoticeKind {
    /** An attempt failed or ran into its time limit, the last one too. */
    ATTEMPT_FAILED("attemptFailed", Trouble.FAILING),
    /** A run failed or timed out for good. */
    FAILED("failed", Trouble.FAILING),
    /** So many runs in a row failed for good. */
    FAILED_IN_A_ROW("failedInARow", Trouble.FAILING),
    /** Occurrences were missed: nobody planned them within the tolerance. */
    MISSED("missed", Trouble.MISSED),
    /** So many occurrences in a row were skipped, for whatever reason but a pause or an order. */
    SKIPPED_IN_A_ROW("skippedInARow", Trouble.SKIPPED),
    /** A run has not begun so long after its planned time. */
    LATE("late", Trouble.LATE),
    /** A run takes longer than a given time, or than it usually does. */
    TOOK_LONGER("tookLonger", Trouble.LONG),
    /** A run was lost with its instance for good. */
    LOST("lost", Trouble.LOST),
    /** A run was taken over from an instance that died. */
    TAKEN_OVER("takenOver", Trouble.LOST),
    /** A run succeeded. */
    ENDED_WELL("endedWell", Trouble.NONE),
    /** By what its runs usually take, a job will probably miss its deadline. */
    DEADLINE_AT_RISK("deadlineAtRisk", Trouble.DEADLINE),
    /** A job did not end by its deadline. */
    DEADLINE_MISSED("deadlineMissed", Trouble.DEADLINE),
    /** A job has not succeeded for as long as it says. */
    SILENT("silent", Trouble.SILENT),
    /** An instance stopped renewing its lease. */
    INSTANCE_LOST("instanceLost", Trouble.INSTANCE),
    /** Runs are due in a lane that no live instance serves. */
    LANE_UNSERVED("laneUnserved", Trouble.LANE),
    /** Occurrences that were owed are neither on record nor live. */
    UNEXPLAINED("unexplained", Trouble.TALLY),
    /** A seal does not agree with what it covers. */
    SEAL_BROKEN("sealBroken", Trouble.SEAL),
    /** The doctor has a finding. */
    FINDING("finding", Trouble.FINDING),
    /** What was told has come again; how often, since when. */
    AGAIN("again", Trouble.NONE),
    /** What was told is over. */
    RECOVERED("recovered", Trouble.NONE),
    /** Many causes at once, told as one. */
    WIDESPREAD("widespread", Trouble.WIDE),
    /** A sample that somebody ordered, to see whether a channel works. */
    SAMPLE("sample", Trouble.NONE);

    private final String word;
    private final Trouble trouble;

    NoticeKind(String word, Trouble trouble) {
        this.word = word;
        this.trouble = trouble;
    }

    /** {@return its name in definitions and in what is sent} */
    public String word() {
        return word;
    }

    /** {@return what is wrong then} */
    public Trouble trouble() {
        return trouble;
    }

    /** {@return whether a rule can ask for it; the others follow from what was told} */
    public boolean isAskedFor() {
        return ordinal() < AGAIN.ordinal();
    }

    /** {@return whether it concerns no job, so that a rule of the whole cluster alone can ask for it} */
    public boolean isOfCluster() {
        return switch (trouble) {
            case INSTANCE, LANE, TALLY, SEAL, FINDING -> true;
            default -> false;
        };
    }

    /** {@return whether a rule says how many or how long, so that naming it is not enough} */
    public boolean isMeasured() {
        return this == FAILED_IN_A_ROW || this == SKIPPED_IN_A_ROW || this == LATE || this == TOOK_LONGER;
    }

    /** {@return those that a rule may name as they are} */
    public static List<NoticeKind> plain() {
        return Arrays.stream(values())
                .filter(kind -> kind.isAskedFor() && !kind.isMeasured())
                .toList();
    }

    /** {@return the kind of a word; empty for one that a newer version of the software has written} */
    public static Optional<NoticeKind> of(String word) {
        return Arrays.stream(values()).filter(kind -> kind.word.equals(word)).findFirst();
    }
}
