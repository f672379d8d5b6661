package dev.brume.internal.session;

import dev.brume.Event;
import dev.brume.LeaseLostException;
import dev.brume.SharedName;
import dev.brume.StoreException;
import dev.brume.history.NamedLeaseRow;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Fence;
import dev.brume.spi.Transaction;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * Takes, renews and gives back leases by name. The database's clock decides; a holder counts its time from before it asked, on
 * its monotonic clock, and takes the lease for lost a sixth of it early.
 */
public final class NamedLeases {
    private final Instance instance;

    /** Creates the steps. */
    public NamedLeases(Instance instance) {
        this.instance = instance;
    }

    /**
     * A lease as its holder knows it.
     *
     * @param row as it was written
     * @param endNanos the monotonic clock when it is to be taken for lost
     */
    public record Taken(NamedLeaseRow row, long endNanos) {}

    /** Takes a lease; empty if someone has it, or its cool-down is not over. */
    public Optional<Taken> take(String name, Duration most) {
        String full = SharedName.parse(name, "lease");
        long asked = instance.time().nanos();
        return instance.transact(tx -> take(tx, full, most)).map(row -> new Taken(row, end(asked, most)));
    }

    private static long end(long asked, Duration most) {
        return asked + most.minus(most.dividedBy(6)).toNanos();
    }

    private Optional<NamedLeaseRow> take(Transaction tx, String name, Duration most) {
        long epoch = tx.sessions().epoch();
        Optional<NamedLeaseRow> before = tx.leases().lock(name);
        Instant now = tx.now();
        if (before.filter(row -> row.freeAt().isAfter(now)).isPresent()) {
            return Optional.empty();
        }
        long fence = Fence.of(epoch, tx.take(1).fences().get(0));
        Instant until = now.plus(most);
        NamedLeaseRow taken = new NamedLeaseRow(name, instance.settings().instance(), fence, now, now, until, until);
        if (before.isEmpty()) {
            return tx.leases().add(taken) ? Optional.of(taken) : Optional.empty();
        }
        tx.leases().write(taken);
        return Optional.of(taken);
    }

    /** Renews a lease; empty if it is lost. */
    public Optional<Taken> renew(NamedLeaseRow held, Duration most) {
        long asked = instance.time().nanos();
        Optional<NamedLeaseRow> renewed = instance.transact(tx -> {
            Optional<NamedLeaseRow> row = own(tx, held);
            Instant now = tx.now();
            Optional<NamedLeaseRow> longer =
                    row.filter(found -> found.until().isAfter(now)).map(found -> found.renewed(now, now.plus(most)));
            longer.ifPresent(tx.leases()::write);
            return longer;
        });
        return renewed.map(row -> new Taken(row, end(asked, most)));
    }

    private static Optional<NamedLeaseRow> own(Transaction tx, NamedLeaseRow held) {
        return tx.leases().lock(held.name()).filter(row -> row.fence() == held.fence());
    }

    /** Gives a lease back. */
    public void release(NamedLeaseRow held, Duration coolDown) {
        try {
            instance.transact(tx -> {
                Instant now = tx.now();
                own(tx, held)
                        .filter(row -> row.until().isAfter(now))
                        .ifPresent(row -> tx.leases().write(row.released(now, now.plus(coolDown))));
                return null;
            });
        } catch (StoreException e) {
            instance.tellProblem("lease '" + held.name() + "' could not be given back, and will run out", e);
        }
    }

    /**
     * Makes sure of a lease in a caller's transaction, and locks it until that ends.
     *
     * @throws LeaseLostException if it does not hold
     */
    public void check(NamedLeaseRow held, Connection connection) {
        boolean holds = instance.store()
                .join(
                        connection,
                        tx -> own(tx, held)
                                .filter(row -> row.until().isAfter(tx.now()))
                                .isPresent());
        if (!holds) {
            throw lost(held);
        }
    }

    /** {@return the error that tells of a lost lease} */
    public static LeaseLostException lost(NamedLeaseRow held) {
        return new LeaseLostException(
                "lease '" + held.name() + "' with fence " + held.fence() + " does not hold any more");
    }

    /** Tells that a lease was lost. */
    public void tellLost(NamedLeaseRow held, String why) {
        instance.tell(Event.Kind.LEASE_LOST, "lease '" + held.name() + "': " + why);
    }

    /** {@return the monotonic clock} */
    public long nanos() {
        return instance.time().nanos();
    }
}
