package dev.brume.internal.order;

import dev.brume.BrumeException;
import dev.brume.CalendarName;
import dev.brume.DefinitionsSeen;
import dev.brume.EditConflictException;
import dev.brume.GateKey;
import dev.brume.JobName;
import dev.brume.history.CalendarRow;
import dev.brume.history.JobRow;
import dev.brume.internal.text.Texts;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.Collection;
import java.util.Map;
import java.util.Optional;

/**
 * The person behind a change, their reason, and the versions they saw.
 *
 * @param who orders it
 * @param because why, empty if nobody said
 * @param seen what they saw when they decided; empty if they want it whatever there is
 * @param built when the application was built that wants it; of two builds, the definitions of the later one hold
 */
public record Edit(String who, String because, Optional<DefinitionsSeen> seen, Optional<Instant> built) {
    private static final int LONGEST_NAME = 200;
    private static final int LONGEST_REASON = 500;

    /** Checks what is to be kept in the change log. */
    public Edit {
        Texts.line("who", who, LONGEST_NAME);
        Texts.line("because", because, LONGEST_REASON);
    }

    /** An edit that someone wants whatever there is. */
    public static Edit by(String who) {
        return new Edit(who, "", Optional.empty(), Optional.empty());
    }

    /** {@return the same, wanted by an application that was built then} */
    public Edit of(Optional<Instant> build) {
        return new Edit(who, because, seen, build);
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
