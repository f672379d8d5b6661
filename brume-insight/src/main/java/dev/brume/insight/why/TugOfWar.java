package dev.brume.insight.why;

import dev.brume.Job;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.JobView;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * Whether two disagree about a definition, so that it goes back and forth. Stateless.
 *
 * @since 0.1.0
 */
public final class TugOfWar {
    private static final Duration LATELY = Duration.ofDays(1);
    private static final int THERE_AND_BACK_AND_THERE = 4;

    /** For so many times as long as it went on between two changes, or at least for a while, nothing has changed any more. */
    private static final int QUIET = 3;

    private static final Duration WHILE = Duration.ofMinutes(10);

    private TugOfWar() {}

    /** One version has won if it stays for longer than either ever did. */
    private static boolean isOver(History history, JobView view, Instant now) {
        List<Instant> changes =
                history
                        .changes(ChangeFilter.newest(THERE_AND_BACK_AND_THERE - 1)
                                .of(view.name())
                                .withKind("CHANGED"))
                        .stream()
                        .map(ChangeView::at)
                        .toList();
        Duration longest = WHILE;
        for (int i = 1; i < changes.size(); i++) {
            Duration between =
                    Duration.between(changes.get(i), changes.get(i - 1)).multipliedBy(QUIET);
            longest = between.compareTo(longest) > 0 ? between : longest;
        }
        return view.definedAt().plus(longest).isBefore(now);
    }

    /** Says so if the last four versions are only two, in turn, and the last is not older than a day. */
    public static boolean isOn(History history, JobView view, Instant now) {
        int version = view.row().version();
        if (version < THERE_AND_BACK_AND_THERE || view.definedAt().isBefore(now.minus(LATELY))) {
            return false;
        }
        Optional<Job> before = history.version(view.row().name(), version - 1);
        return before.isPresent()
                && before.equals(history.version(view.row().name(), version - 3))
                && Optional.of(view.job()).equals(history.version(view.row().name(), version - 2))
                && !view.job().equals(before.get())
                && !isOver(history, view, now);
    }
}
