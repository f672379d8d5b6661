package dev.brume.why;

import dev.brume.Job;
import dev.brume.port.History;
import dev.brume.port.JobView;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/** Whether two disagree about a definition, so that it goes back and forth. Stateless. */
final class TugOfWar {
    private static final Duration LATELY = Duration.ofDays(1);
    private static final int THERE_AND_BACK_AND_THERE = 4;

    private TugOfWar() {}

    /** Says so if the last four versions are only two, in turn, and the last is not older than a day. */
    static boolean isOn(History history, JobView view, Instant now) {
        int version = view.row().version();
        if (version < THERE_AND_BACK_AND_THERE || view.definedAt().isBefore(now.minus(LATELY))) {
            return false;
        }
        Optional<Job> before = history.version(view.row().key(), version - 1);
        return before.isPresent()
                && before.equals(history.version(view.row().key(), version - 3))
                && Optional.of(view.job()).equals(history.version(view.row().key(), version - 2))
                && !view.job().equals(before.get());
    }
}
