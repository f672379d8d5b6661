package dev.brume.schedule;

import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Optional;

/**
 * One instant that a schedule owes, with the local time its rule named.
 *
 * @param instant when it is due
 * @param nominal the local time the rule named; differs from the wall clock at {@code instant} where
 *     a policy moved it, as out of a gap
 * @param zone the zone of the rule
 * @param note what a policy did to it, if anything
 */
public record Occurrence(Instant instant, LocalDateTime nominal, ZoneId zone, Optional<Note> note) {

    /** Returns the wall clock of the schedule's zone at the instant. */
    public LocalDateTime local() {
        return LocalDateTime.ofInstant(instant, zone);
    }

    static Occurrence plain(Instant instant, ZoneId zone) {
        return new Occurrence(instant, LocalDateTime.ofInstant(instant, zone), zone, Optional.empty());
    }
}
