package dev.brume.spi;

import dev.brume.history.NamedLeaseRow;
import java.time.Instant;
import java.util.Optional;

/**
 * The steps on leases by name, within a transaction.
 *
 * @since 0.1.0
 */
public interface NamedLeaseSteps {

    /** Locks a lease, waiting for whoever has it locked. */
    Optional<NamedLeaseRow> lock(String name);

    /** Adds a lease; false if one of that name is there. */
    boolean add(NamedLeaseRow lease);

    /** Writes a locked lease. */
    void write(NamedLeaseRow lease);

    /** Removes leases that have been free since before an instant; returns how many. */
    int forget(Instant freeSince);
}
