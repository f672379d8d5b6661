package dev.brume.internal.order;

import dev.brume.BrumeException;
import dev.brume.CalendarName;
import dev.brume.DefinitionsSeen;
import dev.brume.EditConflictException;
import dev.brume.GateKey;
import dev.brume.JobName;
import dev.brume.history.CalendarRow;
import dev.brume.history.JobRow;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.Collection;
import java.util.Map;
import java.util.Optional;

/**
 * The person behind a change, and the versions they saw.
 *
 * @param by who orders it
 * @param seen what they saw when they decided; empty if they want it whatever there is
 * @param built when the application was built that wants it; of two builds, the definitions of the later one hold
 */
public record Edit(Orderer by, Optional<DefinitionsSeen> seen, Optional<Instant> built) {

    /** An edit that someone wants whatever there is. */
    public static Edit by(Orderer orderer) {
        return new Edit(orderer, Optional.empty(), Optional.empty());
    }

    /** {@return the same, wanted by an application that was built then} */
    public Edit of(Optional<Instant> build) {
        return new Edit(by, seen, build);
    }

    /** {@return the same, by someone who saw what there is} */
    public Edit having(DefinitionsSeen looked) {
        return new Edit(by, Optional.of(looked), built);
    }

    /** {@return who orders it} */
    public String who() {
        return by.who();
    }

    /** {@return from where} */
    public String host() {
        return by.host();
    }

    /** {@return why, empty if nobody said} */
    public String because() {
        return by.because();
    }

    /**
     * Makes sure that jobs are as they were seen; definers must be locked out.
     *
     * @throws EditConflictException if one is not
     */
    public void check(Transaction tx, Collection<JobName> keys) {
        if (seen.isEmpty()) {
            return;
        }
        Map<JobName, JobRow> rows = tx.findJobs(keys);
        for (JobName key : keys) {
            int now = rows.containsKey(key) ? rows.get(key).version() : 0;
            compare("job " + key, "version ", seen.get().jobs().getOrDefault(key, 0), now);
        }
    }

    /** Makes sure that calendars are as they were seen. */
    public void checkCalendars(Map<CalendarName, CalendarRow> rows, Collection<CalendarName> keys) {
        if (seen.isPresent()) {
            for (CalendarName key : keys) {
                int now = rows.containsKey(key) ? rows.get(key).number() : 0;
                compare("calendar " + key, "version ", seen.get().calendars().getOrDefault(key, 0), now);
            }
        }
    }

    /** Makes sure that limits are as they were seen. */
    public void checkLimits(Map<GateKey, Integer> places, Collection<String> names) {
        if (seen.isPresent()) {
            for (String name : names) {
                int now = places.getOrDefault(new GateKey(GateKey.Kind.LIMIT, name), 0);
                compare("limit " + name, "size ", seen.get().limits().getOrDefault(name, 0), now);
            }
        }
    }

    private static void compare(String what, String measure, int then, int now) throws BrumeException {
        if (then != now) {
            throw new EditConflictException(
                    what + " was " + text(measure, then) + " when you looked, and is " + text(measure, now)
                            + " now: someone else changed it meanwhile (brume changes says who); look again");
        }
    }

    private static String text(String measure, int number) {
        return number == 0 ? "not there" : "of " + measure + number;
    }
}
