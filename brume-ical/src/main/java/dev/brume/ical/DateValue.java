package dev.brume.ical;

import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.Zones;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * A DATE or DATE-TIME of RFC 5545, sections 3.3.4 and 3.3.5.
 *
 * @param local the date and time as written
 * @param zone the zone it names: by TZID, or UTC by its final Z; empty for a floating one
 * @param dateOnly whether it has no time
 */
record DateValue(LocalDateTime local, Optional<ZoneId> zone, boolean dateOnly) {
    private static final DateTimeFormatter DATE = DateTimeFormatter.ofPattern("uuuuMMdd");
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("uuuuMMdd'T'HHmmss");

    /** Reads all values of a line, which may be a list; of a period only its start. */
    static List<DateValue> allOf(ContentLines.Line line) {
        Optional<ZoneId> zone = line.parameter("TZID").isEmpty()
                ? Optional.empty()
                : Optional.of(zone(line.name, line.parameter("TZID")));
        List<DateValue> values = new ArrayList<>();
        for (String value : line.value.split(",", -1)) {
            values.add(read(line.name, value.strip().replaceFirst("/.*", ""), zone));
        }
        return values;
    }

    static DateValue of(ContentLines.Line line) {
        List<DateValue> values = allOf(line);
        if (values.size() != 1) {
            throw Problems.of(line.name, line.value, 0, "has " + values.size() + " values (expected one)");
        }
        return values.get(0);
    }

    /** Global identifiers such as {@code /example.org/Europe/Lisbon} end in the name of a zone. */
    private static ZoneId zone(String property, String id) {
        String name = id.startsWith("/") ? id.replaceFirst("^/[^/]+/", "") : id;
        try {
            return Zones.parse(name);
        } catch (ScheduleSyntaxException unknown) {
            throw Problems.of(
                    property + ";TZID",
                    id,
                    unknown.problems().get(0).rule(),
                    unknown.problems().get(0).suggestion());
        }
    }

    private static DateValue read(String property, String value, Optional<ZoneId> zone) {
        try {
            if (value.length() == 8) {
                return new DateValue(LocalDate.parse(value, DATE).atStartOfDay(), zone, true);
            }
            if (value.length() == 16 && (value.endsWith("Z") || value.endsWith("z"))) {
                LocalDateTime utc = LocalDateTime.parse(value.substring(0, 15), TIME);
                return new DateValue(utc, Optional.of(ZoneId.of("UTC")), false);
            }
            return new DateValue(LocalDateTime.parse(value, TIME), zone, false);
        } catch (DateTimeException malformed) {
            throw Problems.of(
                    property,
                    value,
                    0,
                    "is not a date or time (expected 20270105, 20270105T090000 or 20270105T090000Z)");
        }
    }

    /** The wall clock of a zone at this time; a floating time is taken as that zone's. */
    LocalDateTime in(ZoneId target) {
        return zone.isEmpty() || dateOnly || zone.get().equals(target)
                ? local
                : local.atZone(zone.get()).withZoneSameInstant(target).toLocalDateTime();
    }

    /** The same as seconds on that wall clock since 1970. */
    long secondsIn(ZoneId target) {
        return in(target).toEpochSecond(ZoneOffset.UTC);
    }
}
