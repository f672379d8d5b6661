package dev.brume.history;

import dev.brume.GateKey;
import dev.brume.Rate;
import java.time.Instant;
import java.util.Optional;

/**
 * A gate that jobs share, as the store holds it.
 *
 * @param key its name
 * @param cap how many places there are
 * @param used how many are taken: live runs that name it and do not wait, and ends that are not settled
 * @param rate how many may begin in a time, if that is limited
 * @param starts those that the rate still counts
 * @param opensAt when whoever waits is to be looked at because the rate lets more begin; empty if nobody has to
 * @since 0.1.0
 */
public record Gate(GateKey key, int cap, int used, Optional<Rate> rate, Starts starts, Optional<Instant> opensAt) {

    /** A gate without a rate. */
    public Gate(GateKey key, int cap, int used) {
        this(key, cap, used, Optional.empty(), Starts.NONE, Optional.empty());
    }

    /** {@return the gate with another number of places taken} */
    public Gate used(int places) {
        return new Gate(key, cap, places, rate, starts, opensAt);
    }

    /** {@return the gate with another rate, of which nothing is counted yet unless it is the same} */
    public Gate rated(Optional<Rate> other) {
        return other.equals(rate) ? this : new Gate(key, cap, used, other, Starts.NONE, Optional.empty());
    }

    /** {@return the gate with another number of places} */
    public Gate sized(int places) {
        return new Gate(key, places, used, rate, starts, opensAt);
    }

    /** {@return whether it has a place free} */
    public boolean hasRoom() {
        return used < cap;
    }

    /** {@return whether its rate, if it has one, lets one more begin at an instant} */
    public boolean letsBegin(Instant now) {
        return rate.filter(limit -> starts.count(limit, now) >= limit.starts()).isEmpty();
    }

    /** {@return the gate with one more place taken, at an instant} */
    public Gate begun(Instant now) {
        return rate.isEmpty()
                ? used(used + 1)
                : new Gate(key, cap, used + 1, rate, starts.andOne(rate.get(), now), opensAt).looked(now, false);
    }

    /**
     * {@return the gate after whoever waits was looked at}
     *
     * @param again whether there may be more who may begin at once
     */
    public Gate looked(Instant now, boolean again) {
        Optional<Instant> full = rate.filter(limit -> !letsBegin(now)).map(limit -> starts.opensAt(limit, now));
        return new Gate(key, cap, used, rate, starts, full.or(() -> again ? Optional.of(now) : Optional.empty()));
    }
}
