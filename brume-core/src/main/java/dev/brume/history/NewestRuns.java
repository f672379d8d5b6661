package dev.brume.history;

import java.util.Optional;

/**
 * What a job's row knows of its runs.
 *
 * <p>An end leaves the row alone where nothing waits for it, so the row does not count: it names the newest run. As long as the job is
 * not crowded, that one alone can be live, and whether it is can be looked up by its number.
 *
 * @param newest the run that was planned last
 * @param ended the newest run that is known to have ended; {@code newest} may have ended since
 * @param crowded whether runs beside the newest may be live; their ends are all settled
 * @since 0.1.0
 */
public record NewestRuns(Optional<Long> newest, Optional<Long> ended, boolean crowded) {
    /** What is known of a job without runs. */
    public static final NewestRuns NONE = new NewestRuns(Optional.empty(), Optional.empty(), /* crowded= */ false);

    /**
     * {@return what is known once more runs were planned}
     *
     * @param run the newest of them
     * @param isCrowded whether others are live beside it
     * @param beforeIsOver whether the one that was the newest before is live no more
     */
    public NewestRuns planned(long run, boolean isCrowded, boolean beforeIsOver) {
        return new NewestRuns(Optional.of(run), beforeIsOver ? later(ended, newest) : ended, isCrowded);
    }

    /**
     * {@return what is known once runs have ended}
     *
     * @param run the newest of them
     * @param isCrowded whether runs beside the newest may still be live
     */
    public NewestRuns ended(Optional<Long> run, boolean isCrowded) {
        return new NewestRuns(newest, later(ended, run), isCrowded);
    }

    private static Optional<Long> later(Optional<Long> a, Optional<Long> b) {
        return a.isPresent() && (b.isEmpty() || a.get() > b.get()) ? a : b;
    }
}
