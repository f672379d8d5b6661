package dev.brume;

/**
 * Is told of events on a thread of its own, in the order in which its instance told of them. Of one attempt, STARTED comes before its end. PLANNED is told by
 * whoever planned or ordered the run, after the commit, and may come after STARTED, even within one instance; other instances' events are not heard at
 * all. It may take its time: what comes meanwhile waits for it, up to
 * {@value #MOST_WAITING} events; what comes beyond that is passed over, counted and reported. What it throws is counted and
 * reported too, and changes nothing.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface Listener {
    /** How many events wait for one listener at most. */
    int MOST_WAITING = 1024;

    /** Takes note of an event. */
    void heard(Event event) throws Exception;
}
