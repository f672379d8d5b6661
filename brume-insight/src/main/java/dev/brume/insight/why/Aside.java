package dev.brume.insight.why;

import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.JobRow;
import java.util.Optional;
import java.util.Set;

/**
 * Whether a job is set aside since it could not be planned, as the change log tells.
 *
 * @since 0.1.0
 */
public final class Aside {
    private static final String SET_ASIDE = "SET_ASIDE";

    /** It ends when the job could be planned again, or another job has its name. */
    private static final Set<String> OVER = Set.of("WENT_ON", "DEFINED", "CHANGED", "DROPPED");

    private static final int LATELY = 20;

    private Aside() {}

    /** {@return the line that says since when and why, if it still holds} */
    public static Optional<ChangeView> of(History history, JobRow job) {
        return history.changes(ChangeFilter.newest(LATELY).of(job.name())).stream()
                .filter(change -> SET_ASIDE.equals(change.change().kind())
                        || OVER.contains(change.change().kind()))
                .findFirst()
                .filter(change -> SET_ASIDE.equals(change.change().kind()))
                // Another instance may have planned it since, without a word.
                .filter(change -> !job.cursor().isAfter(change.at()));
    }
}
