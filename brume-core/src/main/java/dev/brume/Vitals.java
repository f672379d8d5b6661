package dev.brume;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How one instance fares, as it knows by itself, without asking the database.
 *
 * @param instance its name
 * @param state what it does
 * @param lease how long its session lives without being renewed
 * @param leaseLeft for how long others count on it, unless it renews; empty without a session, negative once the lease has run out
 * @param clockAhead by how much this machine's wall clock is ahead of the database's; negative if it is behind
 * @param lanes the workers of each lane that it serves or is to serve, by name
 * @param held how many runs are leased to it
 * @param unreported how many ends of attempts are still to be written
 * @param sinceTurn how long ago each of its duties last finished a turn, by the duty's name, one of {@link #DUTIES}; empty unless it is at work
 * @param away for how long the database has not answered; empty while it answers
 * @since 0.1.0
 */
public record Vitals(
        String instance,
        State state,
        Duration lease,
        Optional<Duration> leaseLeft,
        Duration clockAhead,
        Map<String, Lane> lanes,
        int held,
        int unreported,
        Map<String, Duration> sinceTurn,
        Optional<Duration> away) {

    /** The names of an instance's duties: it looks for work, reports ends, settles ends. */
    public static final List<String> DUTIES = List.of("round", "finish", "settle");

    /** Creates them, copying the maps. */
    public Vitals {
        lanes = Map.copyOf(lanes);
        sinceTurn = Map.copyOf(sinceTurn);
    }

    /** What an instance does. */
    public enum State {
        /** It was not started: it defines and looks. */
        IDLE,
        /** It takes work, or tries to. */
        AT_WORK,
        /** It takes no more work, and lets runs end. */
        DRAINING,
        /** It has stopped. */
        STOPPED
    }

    /**
     * The workers of a lane.
     *
     * @param workers how many attempts at once
     * @param busy how many go on
     */
    public record Lane(int workers, int busy) {
        /** {@return how many attempts could begin} */
        public int free() {
            return Math.max(0, workers - busy);
        }
    }
}
