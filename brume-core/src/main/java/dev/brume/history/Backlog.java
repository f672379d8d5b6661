package dev.brume.history;

import dev.brume.RunState;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * What the whole cluster owes and has not ended, at one instant.
 *
 * @param at by the database's clock
 * @param lanes runs by lane and state, by name of the lane and order of the states; lanes and states without runs are left out
 * @param unplanned how many jobs and one-offs are due of which no run was made yet
 * @param oldestUnplanned since when the first of them is due
 * @param instances how many sessions live
 * @since 0.1.0
 */
public record Backlog(Instant at, List<Lane> lanes, long unplanned, Optional<Instant> oldestUnplanned, int instances) {

    /** Creates a backlog, copying the list and putting it in order. */
    public Backlog {
        lanes = lanes.stream()
                .sorted(Comparator.comparing(Lane::name).thenComparing(Lane::state))
                .toList();
    }

    /**
     * The runs of a lane that are in one state.
     *
     * @param name of the lane
     * @param state of the runs
     * @param runs how many
     * @param ready how many of them may begin, or began, by now
     * @param oldest when the first of them could begin; it may lie ahead
     */
    public record Lane(String name, RunState state, long runs, long ready, Optional<Instant> oldest) {
        private boolean isToBegin() {
            return state == RunState.PLANNED || state == RunState.BACKING_OFF;
        }
    }

    /** {@return how many runs of a lane are in a state} */
    public long runs(String lane, RunState state) {
        return lanes.stream()
                .filter(each -> each.name.equals(lane) && each.state == state)
                .mapToLong(Lane::runs)
                .sum();
    }

    /** {@return how many runs may begin and have not, for want of a worker} */
    public long ready() {
        return lanes.stream().filter(Lane::isToBegin).mapToLong(Lane::ready).sum();
    }

    /** {@return how many runs wait for a place: overlap, an exclusion key, a limit} */
    public long waiting() {
        return lanes.stream()
                .filter(lane -> lane.state == RunState.WAITING)
                .mapToLong(Lane::runs)
                .sum();
    }

    /** {@return how many occurrences and orders are due and have not begun} */
    public long owed() {
        return unplanned + ready() + waiting();
    }

    /** {@return how long the oldest of what is due and has not begun has been due; zero if nothing is} */
    public Duration oldest() {
        Optional<Instant> first = lanes.stream()
                .filter(lane -> lane.state != RunState.RUNNING)
                .flatMap(lane -> lane.oldest.stream())
                .min(Instant::compareTo);
        return first.or(() -> oldestUnplanned)
                .map(run -> oldestUnplanned.filter(run::isAfter).orElse(run))
                .map(since -> Duration.between(since, at))
                .filter(age -> !age.isNegative())
                .orElse(Duration.ZERO);
    }
}
