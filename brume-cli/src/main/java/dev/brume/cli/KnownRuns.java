package dev.brume.cli;

import dev.brume.NotThereException;
import dev.brume.history.History;

/** Says of a run that is not there what may be meant. */
final class KnownRuns {
    private KnownRuns() {}

    /** {@return the exception for a run that is not on record: a one-off has its number before it becomes a run} */
    static NotThereException missing(History history, long run) {
        return history.oneOff(run)
                .map(oneOff -> NotThereException.ofRun(
                        run,
                        " yet: it will be made of the one-off " + oneOff.key() + " of " + oneOff.job() + ", due "
                                + oneOff.dueAt() + " (brume one-off move and drop are about that)"))
                .orElseGet(() -> NotThereException.ofRun(run, "; see brume runs"));
    }
}
