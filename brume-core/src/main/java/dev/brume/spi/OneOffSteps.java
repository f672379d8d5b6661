package dev.brume.spi;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;

/**
 * The steps on one-offs, within a transaction: of each key of a job there is one at most, the latest.
 *
 * <p>{@link #add}, {@link #find}, {@link #replace}, {@link #remove} and {@link #waiting} may be used in a transaction of the caller's: they
 * are right at any isolation level and lock nothing but the row itself.
 *
 * @since 0.1.0
 */
public interface OneOffSteps {

    /** Adds one; false if its job has one of that key, whether a run was made of it or not. */
    boolean add(OneOffOrder oneOff);

    /** Locks the one of a key, waiting for whoever holds it; empty if there is none. */
    Optional<OneOffRow> find(long job, String key);

    /** Puts one that waits in the place of a locked one of its key. */
    void replace(OneOffOrder locked, OneOffOrder instead);

    /** Removes a locked one, so that nothing of its key is known any more. */
    void remove(OneOffOrder locked);

    /** Reads, without locking, which of a job wait, by their keys. */
    List<OneOffOrder> waiting(long job, String prefix, int limit);

    /**
     * Reads, without locking, which are due, earliest first.
     *
     * @param hint nothing earlier is expected; empty to look from the beginning
     * @param until nothing later is asked for
     */
    List<OneOffOrder> due(Optional<Instant> hint, Instant until, int limit);

    /** Locks those, by the numbers of their runs, that nobody has made a run of, passing over what others hold. */
    List<OneOffOrder> lock(Collection<Long> runs);

    /** Notes that the runs of locked ones were made; they stay known, but follow-ups are forgotten. */
    void made(Collection<Long> runs);
}
