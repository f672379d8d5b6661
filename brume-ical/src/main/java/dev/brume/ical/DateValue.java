package dev.brume.ical;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * A DATE or DATE-TIME of RFC 5545, sections 3.3.4 and 3.3.5, or the start of a PERIOD.
 *
 * @param local the date and time as written
 * @param zone the zone it names: by TZID, or UTC by its final Z; empty for a floating one
 * @param dateOnly whether it has no time
 * @param period what stands behind the slash of a PERIOD: its end or its length
 */
record DateValue(LocalDateTime local, Optional<ZoneId> zone, boolean dateOnly, Optional<String> period) {
    private static final DateTimeFormatter DATE = DateTimeFormatter.ofPattern("uuuuMMdd");
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("uuuuMMdd'T'HHmmss");

    /** Reads all values of a line, which may be a list; one that ends in a comma or semicolon has nothing behind it. */
    static List<DateValue> allOf(ContentLines.Line line, ZoneNames zones) {
        Optional<ZoneId> zone = line.parameter("TZID").isEmpty()
                ? Optional.empty()
                : Optional.of(zones.of(line, line.parameter("TZID")));
        List<DateValue> values = new ArrayList<>();
        String text =
                line.value.replaceAll("\\s+", "").replaceFirst("[,;]+$", "").toUpperCase(Locale.ROOT);
        for (String value : text.split(",", -1)) {
            int slash = value.indexOf('/');
            values.add(
                    slash < 0
                            ? read(line.name, value, zone, Optional.empty())
                            : read(
                                    line.name,
                                    value.substring(0, slash),
                                    zone,
                                    Optional.of(value.substring(slash + 1))));
        }
        return values;
    }

    static DateValue of(ContentLines.Line line, ZoneNames zones) {
        List<DateValue> values = allOf(line, zones);
        if (values.size() != 1) {
            throw Problems.of(line.name, line.value, 0, "has " + values.size() + " values (expected one)");
        }
        return values.get(0);
    }

    /** {@return the end of a PERIOD that states it, in the zone of its start; empty if it states a length} */
    Optional<DateValue> end() {
        return period.filter(text -> !text.startsWith("P") && !text.startsWith("+P"))
                .map(text -> read("PERIOD", text, zone, Optional.empty()));
    }

    private static DateValue read(String property, String value, Optional<ZoneId> zone, Optional<String> period) {
        try {
            if (value.length() == 8) {
                return new DateValue(LocalDate.parse(value, DATE).atStartOfDay(), zone, true, period);
            }
            if (value.length() == 16 && value.endsWith("Z")) {
                LocalDateTime utc = LocalDateTime.parse(value.substring(0, 15), TIME);
                return new DateValue(utc, Optional.of(ZoneId.of("UTC")), false, period);
            }
            return new DateValue(LocalDateTime.parse(value, TIME), zone, false, period);
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
