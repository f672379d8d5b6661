package dev.brume.spi;

import dev.brume.Handler;
import java.time.Duration;

/**
 * An instance that does something only when it is told to, for tests in virtual time.
 *
 * <p>Its work goes on threads of its own, one at a time; all methods are called by one thread.
 *
 * @since 0.1.0
 */
public interface SteppedInstance extends AutoCloseable {

    /**
     * Does all that is to be done at this moment, work included.
     *
     * @return how long nothing more is to be done, as far as the instance knows; above zero
     * @throws IllegalStateException if work calls it
     */
    Duration step();

    /**
     * Lets the work that calls it last: others go on meanwhile, time passes by further steps. Returns when so much time has passed, or with the
     * thread interrupted when the run is told to end while it lasts.
     *
     * @return false if it is no work that calls, so that nothing was done
     */
    boolean elapse(Duration by);

    /** {@return whether an attempt of a run goes on} */
    boolean isGoing(long run);

    /** Sets for how long of real time a handler may go on before the step that waits for it fails. */
    void patience(Duration most);

    /** Has all work done by a handler, whatever the jobs say, from now on. */
    void doneBy(Handler handler);

    /** Writes how far the run is that is being carried out, which then can be looked at. */
    void writeProgress();

    /** Ends the session. */
    @Override
    void close();
}
