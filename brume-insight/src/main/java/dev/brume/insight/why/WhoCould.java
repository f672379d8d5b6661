package dev.brume.insight.why;

import dev.brume.Job;
import dev.brume.Work;
import dev.brume.history.SessionRow;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;

/**
 * Whether any of some instances could run a job, and what they lack if none can. Stateless.
 *
 * @since 0.1.0
 */
public final class WhoCould {

    /** The thing that no instance has. */
    public enum Lacking {
        NOTHING,
        LANE,
        LABELS,
        HANDLER
    }

    private WhoCould() {}

    /** {@return those that serve the job's lane} */
    static List<SessionRow> serving(Job job, List<SessionRow> alive) {
        return only(alive, session -> session.laneNames().contains(job.lane()));
    }

    /** {@return those that serve its lane and carry its labels} */
    static List<SessionRow> labelled(Job job, List<SessionRow> alive) {
        return only(serving(job, alive), session -> session.labels().containsAll(job.requireLabels()));
    }

    /** {@return those that could run it; older versions do not say which handlers they have, so they are believed to} */
    static List<SessionRow> able(Job job, List<SessionRow> alive) {
        return only(
                labelled(job, alive),
                session ->
                        session.handlers().isEmpty() || session.handlers().get().contains(job.needs()));
    }

    private static List<SessionRow> only(List<SessionRow> sessions, Predicate<SessionRow> condition) {
        return sessions.stream().filter(condition).toList();
    }

    public static Lacking lacking(Job job, List<SessionRow> alive) {
        if (serving(job, alive).isEmpty()) {
            return Lacking.LANE;
        }
        if (labelled(job, alive).isEmpty()) {
            return Lacking.LABELS;
        }
        return able(job, alive).isEmpty() ? Lacking.HANDLER : Lacking.NOTHING;
    }

    /** Says in words what nobody has; empty if someone could run it. */
    public static Optional<String> run(Job job, List<SessionRow> alive) {
        return switch (lacking(job, alive)) {
            case NOTHING -> Optional.empty();
            case LANE ->
                Optional.of(
                        "no live instance serves the lane " + job.lane() + " (alive: " + Situation.names(alive) + ")");
            case LABELS ->
                Optional.of("no live instance of the lane " + job.lane() + " carries the labels "
                        + String.join(", ", job.requireLabels()) + " (alive: " + Situation.names(serving(job, alive))
                        + ")");
            case HANDLER ->
                Optional.of("no live instance that serves the lane " + job.lane() + " " + Work.inWords(job.needs())
                        + " (alive: " + Situation.names(labelled(job, alive)) + ")");
        };
    }
}
