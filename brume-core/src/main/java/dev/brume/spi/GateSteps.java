package dev.brume.spi;

import dev.brume.GateKey;
import dev.brume.Rate;
import dev.brume.history.Gate;
import dev.brume.history.RunRow;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The steps on gates that jobs share, within a transaction. They are locked after jobs and before sessions and runs.
 *
 * @since 0.1.0
 */
public interface GateSteps {

    /** Adds gates that are not there yet, nobody in them, and leaves the others as they are; under the definitions' lock. */
    void add(Map<GateKey, Integer> caps);

    /** Adds keys of one-offs that are not there, with one place. They are not there for ever, so they are locked next, or not there again. */
    void open(Collection<GateKey> keys);

    /** Removes keys of one-offs that no run holds or waits at, passing over what others hold; returns how many. */
    int closeIdle(int limit);

    /** Sets how many places gates have; under the definitions' lock. */
    void resize(Map<GateKey, Integer> caps);

    /** Sets how many runs gates let begin in a time, or that it is not limited; under the definitions' lock. */
    void rate(Map<GateKey, Optional<Rate>> rates);

    /** Reads, without locking, the gates whose rate lets more begin by an instant. */
    List<GateKey> opened(Instant by, int limit);

    /** Reads all gates, locking nothing. */
    List<Gate> all();

    /** Locks gates in their order; those that do not exist are left out. */
    Map<GateKey, Gate> lock(Collection<GateKey> keys);

    /** Writes how many places of locked gates are taken, and what their rates count. */
    void write(Collection<Gate> gates);

    /** Puts waiting runs in the queues of their gates. */
    void queue(List<RunRow> waiting);

    /** Takes runs out of all queues. */
    void unqueue(Collection<Long> runs);

    /**
     * Reads, without locking, who waits at any of some gates, by priority and then by time.
     *
     * @param perJob how many of one job at most, its first ones
     */
    List<WaitingRun> waitingAt(Collection<GateKey> gates, int perJob);

    /**
     * Reads, without locking, the waiting runs of jobs, whether they name gates or not, by time.
     *
     * @param perJob how many of one job at most, its first ones
     */
    List<WaitingRun> waitingOf(Collection<Long> jobs, int perJob);

    /** Counts the places that are really taken, of gates that are locked. */
    Map<GateKey, Integer> count(Collection<GateKey> gates);
}
