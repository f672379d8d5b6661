package dev.brume.history;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * One life of an instance.
 *
 * @param id random
 * @param instance its name
 * @param host where it runs
 * @param pid its process
 * @param lanes it serves, with their workers, as {@code main=8}
 * @param labels it carries, sorted
 * @param software the version it runs
 * @param tzdata the version of its zone rules
 * @param epoch in which it was opened
 * @param state where it stands
 * @param openedAt when it began
 * @param renewedAt when it was renewed last
 * @param leaseUntil when its lease ends unless renewed
 * @param endedAt when it ended
 * @param handlers the names of its handlers and the kinds of work that it takes, sorted; empty if an older version opened it, which does not say
 * @param ahead by how much its wall clock was ahead of the database's when that was last noted; negative if behind
 * @param vitals how its process was when it was renewed last; empty if an older version opened it, or nobody can know any more
 * @since 0.1.0
 */
public record SessionRow(
        UUID id,
        String instance,
        String host,
        long pid,
        List<String> lanes,
        List<String> labels,
        String software,
        String tzdata,
        long epoch,
        State state,
        Instant openedAt,
        Instant renewedAt,
        Instant leaseUntil,
        Optional<Instant> endedAt,
        Optional<List<String>> handlers,
        Duration ahead,
        Optional<Vitals> vitals) {

    /** The states of a session. */
    public enum State {
        /** It takes work. */
        OPEN,
        /** It takes no more work and finishes what it has. */
        DRAINING,
        /** Its lease ended unrenewed; its runs are being taken over. */
        LAPSED,
        /** It is over and owns nothing. */
        ENDED
    }

    /** {@return the session with another state and end} */
    public SessionRow at(State stand, Optional<Instant> end) {
        return new SessionRow(
                id,
                instance,
                host,
                pid,
                lanes,
                labels,
                software,
                tzdata,
                epoch,
                stand,
                openedAt,
                renewedAt,
                leaseUntil,
                end,
                handlers,
                ahead,
                vitals);
    }

    /** {@return the session renewed at an instant, its lease ending at another, and how its process was then} */
    public SessionRow renewed(Instant now, Instant until, Optional<Vitals> then) {
        return new SessionRow(
                id, instance, host, pid, lanes, labels, software, tzdata, epoch, state, openedAt, now, until, endedAt,
                handlers, ahead, then);
    }

    /** {@return the names of the lanes it serves} */
    public List<String> laneNames() {
        return lanes.stream()
                .map(lane -> lane.substring(0, lane.lastIndexOf('=')))
                .toList();
    }

    /** How far ahead of the clock a session's renewal may seem before that clock must have been put back. */
    public static final Duration AHEAD = Duration.ofSeconds(5);

    /** {@return whether it was renewed at a time that the clock has not reached: the clock was put back since} */
    public boolean isFromTheFuture(Instant now) {
        return state != State.ENDED && renewedAt.isAfter(now.plus(AHEAD));
    }

    /** {@return whether it is over because its lease ended unrenewed: its process died, hung, or was cut off from the database} */
    public boolean died() {
        return state == State.LAPSED
                || state == State.ENDED && endedAt.filter(leaseUntil::isBefore).isPresent();
    }

    /** {@return whether its lease is over at an instant} */
    public boolean lapsedAt(Instant now) {
        return state == State.LAPSED || state != State.ENDED && !leaseUntil.isAfter(now);
    }
}
