package dev.brume;

import dev.brume.internal.result.RunWatch;
import java.time.Duration;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.TimeoutException;

/**
 * A run that was ordered, to ask for its end. Immutable and safe for use by many threads.
 *
 * <p>Waiting costs the database one look-up five times a second for all runs that a process waits for, twenty times within the first second of
 * a wait, and nothing while it waits for none. An
 * end on this instance is known at once. Of an order within a transaction of the caller's nothing is known until that has committed.
 *
 * @since 0.1.0
 */
public final class RunHandle {
    private final long id;
    private final RunWatch watch;

    RunHandle(long id, RunWatch watch) {
        this.id = id;
        this.watch = watch;
    }

    /** {@return the run's id, by which it is found in the history} */
    public long id() {
        return id;
    }

    /**
     * {@return how it ended; empty if it has not, or is not on record}
     *
     * @throws StoreException if the database cannot be reached
     */
    public Optional<RunResult> result() {
        return watch.look(id);
    }

    /**
     * {@return a stage that completes when the run has ended, however it did}
     *
     * <p>It completes with a {@link NotThereException} if the run goes without an end: the one-off was dropped, or retention removed the line; and
     * with an {@link IllegalStateException} if this instance is stopped first. What depends on it runs on the common pool.
     */
    public CompletionStage<RunResult> ended() {
        return watch.ended(id);
    }

    /**
     * {@return a stage that completes when the run has ended, however it did, or with nothing after a while}
     *
     * <p>Otherwise as {@link #ended()}.
     *
     * @param limit how long it is waited for at most
     */
    public CompletionStage<Optional<RunResult>> ended(Duration limit) {
        return watch.ended(id, limit);
    }

    /**
     * Waits until the run has ended, however it did.
     *
     * @param limit how long at most
     * @throws TimeoutException if it has not ended by then; it goes on
     * @throws NotThereException if it goes without an end
     * @throws IllegalStateException if this instance is stopped first
     */
    public RunResult await(Duration limit) throws InterruptedException, TimeoutException {
        return watch.await(id, limit);
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof RunHandle handle && handle.id == id;
    }

    @Override
    public int hashCode() {
        return Objects.hash(id);
    }

    @Override
    public String toString() {
        return "run " + id;
    }
}
