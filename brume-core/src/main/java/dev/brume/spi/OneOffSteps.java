package dev.brume.spi;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The steps on one-offs that no run has been made of yet, within a transaction.
 *
 * <p>{@link #add}, {@link #move} and {@link #remove} may be used in a transaction of the caller's: they are right at any
 * isolation level and lock nothing but the row itself.
 *
 * @since 0.1.0
 */
public interface OneOffSteps {

    /** Adds one; false if its job has, or had, one of that key. */
    boolean add(OneOffOrder oneOff);

    /** Gives one that no run was made of another instant; false if there is none. */
    boolean move(long job, String key, Instant dueAt);

    /** Removes one that no run was made of, so that its key is free; false if there is none. */
    boolean remove(long job, String key);

    /**
     * Reads, without locking, which are due, earliest first.
     *
     * @param hint nothing earlier is expected; empty to look from the beginning
     * @param until nothing later is asked for
     */
    List<OneOffRow> due(Optional<Instant> hint, Instant until, int limit);

    /** Locks those that nobody has made a run of, passing over what others hold. */
    List<OneOffRow> lock(Collection<Long> ids);

    /** Notes the runs that were made of locked ones, by id; their keys stay taken, but those of follow-ups are forgotten. */
    void taken(Map<Long, Long> runs);
}
