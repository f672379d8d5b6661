package dev.brume.internal.duty;

import java.time.Duration;
import java.util.EnumMap;
import java.util.Map;
import java.util.Optional;

/**
 * When each of the duties that an instance owes its lease to last finished a turn, and why it did not since. An instance whose duty
 * has not turned for a whole lease gives the lease up, so that others take over. Guarded by itself.
 *
 * <p>Only what is watched counts: the engine watches what it drives by threads.
 */
public final class Turns {
    private static final int MOST_DOUBLINGS = 6;

    /** The duties that an instance owes its lease to. */
    public enum Name {
        /** Plans, claims and takes over. */
        ROUND("looking for work"),
        /** Reports ends. */
        FINISH("reporting ends"),
        /** Settles ends. */
        SETTLE("settling ends");

        private final String words;

        Name(String words) {
            this.words = words;
        }
    }

    /** A duty that does not turn any more, in words. */
    public record Stuck(String text) {}

    private static final class Turn {
        private long last;
        private Optional<String> failure = Optional.empty();

        Turn(long last) {
            this.last = last;
        }
    }

    /** In leases. */
    private static final int PATIENCE_WITH_WORK = 4;

    private final Map<Name, Turn> watched = new EnumMap<>(Name.class);
    private final Duration lease;
    private int working;
    private int givenUp;
    private long notBefore;
    private boolean waiting;

    Turns(Duration lease) {
        this.lease = lease;
    }

    /** Begins to watch a duty, as if it had turned at this moment. */
    public synchronized void watch(Name duty, long nanos) {
        watched.put(duty, new Turn(nanos));
    }

    /** Ends the watch over a duty that is not to turn any more, as those that look for work while the instance drains. */
    public synchronized void unwatch(Name duty) {
        watched.remove(duty);
    }

    /**
     * Notes a turn.
     *
     * @param whole whether the instance had a session in it; without one there is nothing that could fail
     */
    synchronized void turned(Name duty, long nanos, boolean whole) {
        Turn turn = watched.get(duty);
        if (turn == null) {
            return;
        }
        turn.last = nanos;
        if (whole) {
            turn.failure = Optional.empty();
            boolean allWell = watched.values().stream().allMatch(each -> each.failure.isEmpty());
            givenUp = allWell ? 0 : givenUp;
        }
    }

    /** Notes that a turn was not finished. */
    public synchronized void failed(Name duty, Throwable why) {
        Turn turn = watched.get(duty);
        if (turn != null) {
            turn.failure = Optional.of(String.valueOf(why));
        }
    }

    /** Notes that work of a run has begun to hold a connection of the pool that the duties share with it. */
    public synchronized void workBegins() {
        working++;
    }

    /** Notes that such work is over; if it was the last, the duties have a lease from now on. */
    public synchronized void workIsOver(long nanos) {
        working--;
        if (working == 0) {
            watched.values().forEach(turn -> turn.last = Math.max(turn.last, nanos));
        }
    }

    /** Duties that wait for a connection behind the instance's own work are no reason to take that work from it, for a while. */
    private long patience() {
        return working == 0
                ? lease.toNanos()
                : lease.multipliedBy(PATIENCE_WITH_WORK).toNanos();
    }

    /** {@return how long ago each duty that is watched last finished a turn} */
    public synchronized Map<Name, Duration> since(long nanos) {
        Map<Name, Duration> all = new EnumMap<>(Name.class);
        watched.forEach((duty, turn) -> all.put(duty, Duration.ofNanos(Math.max(0, nanos - turn.last))));
        return all;
    }

    /** {@return the duty that has not turned for a lease, or had not when the lease was given up and is not to be tried again yet} */
    public synchronized Optional<Stuck> stuck(long nanos) {
        Optional<Stuck> still = watched.entrySet().stream()
                .filter(entry -> nanos - entry.getValue().last >= patience())
                .map(entry -> stuck(entry.getKey(), entry.getValue()))
                .findFirst();
        if (still.isPresent() || !waiting) {
            return still;
        }
        waiting = nanos - notBefore < 0;
        return waiting ? Optional.of(new Stuck("a duty that failed is not tried again yet")) : Optional.empty();
    }

    private Stuck stuck(Name duty, Turn turn) {
        return new Stuck(duty.words + " has not finished a turn for a whole lease"
                + turn.failure.map(why -> ": " + why).orElse(" (it hangs)"));
    }

    /** Notes that the lease was given up. What throws again and again is tried again after growing times; what hung, when it goes on. */
    public synchronized void gaveUp(long nanos) {
        boolean throwing = watched.values().stream().anyMatch(turn -> turn.failure.isPresent());
        if (throwing) {
            notBefore = nanos + lease.toNanos() * (1L << Math.min(givenUp++, MOST_DOUBLINGS));
            waiting = true;
        }
    }
}
