package dev.brume.history;

import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * How a job stands with the pauses that cover it.
 *
 * @param state whether it is paused
 * @param turnsAt when the pause that it is in ends, or the next begins; empty if none does
 * @since 0.1.0
 */
public record PauseMark(State state, Optional<Instant> turnsAt) {

    /** The states. */
    public enum State {
        /** It is not paused. */
        NONE,
        /** It is paused; what is owed meanwhile is decided afterwards as its policy for missed occurrences says. */
        PAUSED,
        /** It is paused, and nothing that is owed meanwhile is made up for. */
        LEFT_OUT
    }

    /** The mark of a job that no pause covers. */
    public static final PauseMark NONE = new PauseMark(State.NONE, Optional.empty());

    /**
     * {@return the mark at an instant}
     *
     * <p>Pauses that touch or overlap are one stretch; nothing of it is made up for if one of them says so.
     *
     * @param covering the pauses that cover the job, ended ones too
     */
    public static PauseMark of(Collection<Pause> covering, Instant at) {
        List<Pause> inForce =
                covering.stream().filter(pause -> pause.isInForce(at)).toList();
        if (inForce.isEmpty()) {
            return new PauseMark(
                    State.NONE,
                    covering.stream().map(Pause::since).filter(at::isBefore).min(Comparator.naturalOrder()));
        }
        List<Pause> stretch = inForce;
        List<Pause> longer = touching(covering, stretch);
        while (longer.size() > stretch.size()) {
            stretch = longer;
            longer = touching(covering, stretch);
        }
        boolean leavesOut = stretch.stream().anyMatch(pause -> pause.owed() == Pause.Owed.LEFT_OUT);
        return new PauseMark(leavesOut ? State.LEFT_OUT : State.PAUSED, end(stretch));
    }

    private static Optional<Instant> end(Collection<Pause> stretch) {
        return stretch.stream().anyMatch(pause -> pause.until().isEmpty())
                ? Optional.empty()
                : stretch.stream().flatMap(pause -> pause.until().stream()).max(Comparator.naturalOrder());
    }

    private static List<Pause> touching(Collection<Pause> covering, Collection<Pause> stretch) {
        Instant begin = stretch.stream()
                .map(Pause::since)
                .min(Comparator.naturalOrder())
                .orElseThrow();
        Optional<Instant> end = end(stretch);
        return covering.stream()
                .filter(pause -> end.filter(pause.since()::isAfter).isEmpty())
                .filter(pause -> pause.until().filter(begin::isAfter).isEmpty())
                .toList();
    }

    /** {@return whether the job is paused, as far as its last turn was made} */
    public boolean paused() {
        return state != State.NONE;
    }

    /** {@return whether the job is paused at an instant that is not before its last turn, and before the turn after the next} */
    public boolean pausedAt(Instant at) {
        return turns(at) != paused();
    }

    /** {@return whether the next turn is due at an instant} */
    public boolean turns(Instant at) {
        return turnsAt.filter(turn -> !turn.isAfter(at)).isPresent();
    }

    /**
     * {@return when there is something to decide about a job: at its next occurrence unless it is paused, and at its next turn}
     *
     * @param occurrence the next one
     */
    public Optional<Instant> due(Optional<Instant> occurrence) {
        Optional<Instant> owed = paused() ? Optional.empty() : occurrence;
        return owed.isPresent() && (turnsAt.isEmpty() || owed.get().isBefore(turnsAt.get())) ? owed : turnsAt;
    }
}
