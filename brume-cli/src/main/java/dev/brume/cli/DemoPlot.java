package dev.brume.cli;

import dev.brume.Event;
import java.time.Duration;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What the demo is there to show, how much of it was seen, and whom to kill for it: by what the instances say, and
 * nothing else. Times are those of one clock that only goes on, in nanoseconds.
 */
final class DemoPlot {
    /** The job in the middle of whose run an instance is killed. */
    static final String VICTIM = "lamp-inspection";

    private static final Duration BEFORE_KILL = Duration.ofMillis(2500);

    private final Set<Scene> seen = EnumSet.noneOf(Scene.class);
    private final Set<Long> retried = new HashSet<>();
    private @Nullable Victim victim;

    /** What is there to be seen. */
    private enum Scene {
        SKIPPED_OVERLAP,
        RETRY,
        TAKEOVER,
        MISSED
    }

    /** A run, the instance that began it, and how far it has come. */
    record Victim(long run, String instance, long killAt, boolean killed, boolean takenOver) {
        private Victim withKilled() {
            return new Victim(run, instance, killAt, true, takenOver);
        }

        private Victim withTakenOver() {
            return new Victim(run, instance, killAt, killed, true);
        }
    }

    /** Notes what an instance said. */
    void saw(Event event, long now) {
        long run = event.run().orElse(-1);
        switch (event.kind()) {
            case STARTED -> {
                boolean victims =
                        event.job().filter(job -> job.name().equals(VICTIM)).isPresent();
                if (victims && victim == null && !seen.contains(Scene.TAKEOVER)) {
                    victim = new Victim(run, event.instance(), now + BEFORE_KILL.toNanos(), false, false);
                }
            }
            case MISSED -> seen.add(Scene.MISSED);
            case SKIPPED -> seen.add(Scene.SKIPPED_OVERLAP);
            case BACKING_OFF -> retried.add(run);
            case TAKEN_OVER -> {
                if (victim != null && victim.run() == run) {
                    victim = victim.withTakenOver();
                }
            }
            case SUCCEEDED -> {
                if (retried.contains(run)) {
                    seen.add(Scene.RETRY);
                }
                if (victim != null && victim.run() == run) {
                    ended(victim);
                }
            }
            default -> {
                // Everything else is shown and has no part in the plot.
            }
        }
    }

    /** A run that ended before its instance was killed shows no takeover: the next one has to. */
    private void ended(Victim run) {
        victim = null;
        if (run.takenOver()) {
            seen.add(Scene.TAKEOVER);
        }
    }

    /** {@return who is to be killed now, and from now on counts as killed} */
    Optional<Victim> kill(long now) {
        if (victim == null || victim.killed() || now - victim.killAt() < 0) {
            return Optional.empty();
        }
        victim = victim.withKilled();
        return Optional.of(victim);
    }

    /** {@return whether nothing is left to be seen} */
    boolean isComplete() {
        return seen.size() == Scene.values().length;
    }
}
