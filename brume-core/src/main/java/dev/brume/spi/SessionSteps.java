package dev.brume.spi;

import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * The steps on sessions, on the epoch and on the history that the database is in, within a transaction.
 *
 * @since 0.1.0
 */
public interface SessionSteps {

    /**
     * Holds a session open until the end of the transaction and returns the clock, read after that; empty if it has lapsed
     * or ended, if a new epoch has begun, or if this database is an older copy of the one that the session was last renewed
     * in.
     */
    Optional<Instant> hold(SessionLease lease);

    /** Holds the sessions that take work and have not lapsed open until the end of the transaction, by id. */
    List<SessionRow> holdOpen();

    /** Reads the sessions that take work and have not lapsed at an instant, locking nothing. */
    List<SessionRow> takingWork(Instant now);

    /** Reads the epoch, locking out whoever would raise it. */
    long epoch();

    /** Reads the highest epoch that was ever noted beside the database, where one is; 0 where nothing is kept beside it. */
    default long highestEpoch() {
        return 0;
    }

    /** Raises the epoch above what the caller knew, unless it is above that already; returns what it is then. */
    long raiseEpoch(long known);

    /** Adds a session. */
    void add(SessionRow session);

    /**
     * Renews a session that has not lapsed, and notes how its process is; empty if it has lapsed, is gone, or the epoch or the server's history is
     * another.
     */
    Optional<Renewal> renew(SessionLease known, Duration lease, Vitals vitals);

    /**
     * Names the history of itself that the database server is in: another one than before means that it may be an older
     * copy, such as a standby that took over. Empty where a server does not tell.
     */
    String timeline();

    /** Reads which history was noted last; empty if none was. */
    String notedTimeline();

    /** Notes a history. */
    void noteTimeline(String timeline);

    /** Writes what an instance says of itself: the handlers it has, sorted, and by how much its wall clock is ahead. */
    void describe(UUID session, Collection<String> handlers, Duration ahead);

    /** Locks the open sessions of an instance, by its name. */
    List<SessionRow> lockOpenOf(String instance);

    /** Locks a session. */
    Optional<SessionRow> lock(UUID session);

    /** Reads the sessions that have lapsed, or are being taken over. */
    List<SessionRow> lapsed();

    /** Sets where a locked session stands. */
    void mark(UUID session, SessionRow.State state);

    /** Lays ended sessions from before an instant aside, where only {@link dev.brume.history.History#past} finds them; returns how many. */
    int forget(Instant endedBefore);
}
