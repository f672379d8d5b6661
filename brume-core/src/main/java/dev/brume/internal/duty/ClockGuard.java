package dev.brume.internal.duty;

import dev.brume.history.SessionRow;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * Holds the database's clock against the two of this machine, and says how far to believe it.
 *
 * <p>A database that reads 2036 for a minute must neither decide ten years of occurrences nor take every session for
 * lapsed. While its clock is in doubt, planning goes by this machine's wall clock where that is the earlier one, and a
 * session counts as silent only once it was seen unrenewed for a whole lease on the monotonic clock. Safe for use by many
 * threads.
 */
final class ClockGuard {
    /** How far ahead of the wall clock the database may be before it is in doubt, and how long it must go steadily then. */
    static final Duration AHEAD = Duration.ofMinutes(10);

    private static final int LEASES_IN_DOUBT = 3;

    private final Duration lease;
    private final Map<UUID, Silence> silences = new HashMap<>();
    private Optional<Reading> last = Optional.empty();
    private long steadySince;
    private long doubtUntil;

    private record Reading(Instant database, long nanos) {}

    private record Silence(Instant renewedAt, long since) {}

    ClockGuard(Duration lease, long nanos) {
        this.lease = lease;
        this.steadySince = nanos;
        this.doubtUntil = nanos;
    }

    private Duration tolerance() {
        return lease.dividedBy(3);
    }

    /**
     * Takes a reading of the clocks.
     *
     * @param before the monotonic clock before the database was asked
     * @param after the same afterwards; a reading that took long says nothing
     * @return by how much the database's clock jumped, if it did
     */
    synchronized Optional<Duration> note(Instant database, Instant wall, long before, long after) {
        if (after - before > lease.dividedBy(6).toNanos()) {
            return Optional.empty();
        }
        long nanos = before + (after - before) / 2;
        Optional<Reading> earlier = last;
        last = Optional.of(new Reading(database, nanos));
        if (earlier.isEmpty()) {
            steadySince = nanos;
            boolean skewed = Duration.between(wall, database).abs().compareTo(tolerance()) > 0;
            doubtUntil = skewed ? nanos + lease.toNanos() : nanos;
            return Optional.empty();
        }
        Duration departed = departure(earlier.get(), database, nanos);
        if (departed.abs().compareTo(tolerance()) <= 0) {
            return Optional.empty();
        }
        steadySince = nanos;
        doubtUntil = nanos + lease.multipliedBy(LEASES_IN_DOUBT).toNanos();
        return Optional.of(departed);
    }

    /** {@return the database's time as far as it is to be believed: never further than the wall clock while in doubt} */
    synchronized Instant trusted(Instant database, Instant wall, long nanos) {
        return isBeyond(database, wall, nanos) ? wall.truncatedTo(ChronoUnit.MICROS) : database;
    }

    /** {@return whether the database's clock is further ahead than may be believed yet} */
    synchronized boolean isBeyond(Instant database, Instant wall, long nanos) {
        return database.isAfter(wall.plus(AHEAD)) && !isConfirmed(database, nanos);
    }

    /** A jump that readings have confirmed for long enough is the server's new time. */
    private boolean isConfirmed(Instant database, long nanos) {
        return fitsLast(database, nanos) && nanos - steadySince >= AHEAD.toNanos();
    }

    private boolean fitsLast(Instant database, long nanos) {
        return last.filter(reading -> departure(reading, database, nanos).abs().compareTo(tolerance()) <= 0)
                .isPresent();
    }

    private static Duration departure(Reading earlier, Instant database, long nanos) {
        return Duration.between(earlier.database(), database).minusNanos(nanos - earlier.nanos());
    }

    /** {@return whether a session whose lease is over by the database's clock may be closed; notes what it sees} */
    synchronized boolean isSilent(SessionRow session, Instant now, long nanos) {
        boolean inDoubt = nanos - doubtUntil < 0 || !fitsLast(now, nanos) || session.isFromTheFuture(now);
        if (!inDoubt) {
            silences.remove(session.id());
            return true;
        }
        Silence seen = silences.get(session.id());
        if (seen == null || !seen.renewedAt().equals(session.renewedAt())) {
            silences.put(session.id(), new Silence(session.renewedAt(), nanos));
            return false;
        }
        return nanos - seen.since() >= lease.toNanos();
    }
}
