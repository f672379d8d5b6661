package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Objects;
import java.util.Set;

/**
 * One instant that a schedule owes, with the local time its rule named.
 *
 * @param instant when it is due
 * @param nominal the local time the rule named; differs from the wall clock at {@code instant} where
 *     a policy moved it, as out of a gap or off a holiday
 * @param zone the zone of the rule
 * @param notes what policies did to it, in the order of {@link Note}; unmodifiable
 * @since 0.1.0
 */
public record Occurrence(Instant instant, LocalDateTime nominal, ZoneId zone, Set<Note> notes) {

    /** Checks that nothing is missing. */
    public Occurrence {
        Objects.requireNonNull(instant, "instant");
        Objects.requireNonNull(nominal, "nominal");
        Objects.requireNonNull(zone, "zone");
        notes = Notes.of(Notes.bits(notes));
    }

    /** {@return the wall clock of the schedule's zone at the instant} */
    public LocalDateTime local() {
        return LocalDateTime.ofInstant(instant, zone);
    }

    static Occurrence plain(Instant instant, ZoneId zone) {
        return new Occurrence(instant, LocalDateTime.ofInstant(instant, zone), zone, Notes.NONE);
    }

    Occurrence with(Note note) {
        return new Occurrence(instant, nominal, zone, Notes.with(notes, note));
    }

    /** The same occurrence, owed so much later. */
    Occurrence later(Duration by) {
        return by.isZero() ? this : new Occurrence(instant.plus(by), nominal, zone, Notes.with(notes, Note.SPREAD));
    }
}
