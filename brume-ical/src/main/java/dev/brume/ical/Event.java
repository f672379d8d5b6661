package dev.brume.ical;

import dev.brume.ical.ContentLines.Line;
import dev.brume.schedule.LocalTimes;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A VEVENT as it stands in a file. Its times are seconds on the wall clock of its own zone. */
final class Event {
    private static final long DAY = 86_400;
    private static final long LONGEST = 3660 * DAY;
    private static final int MOST_EXCLUDED = 100_000;

    /** What RFC 5545 (and 2445), 7986 and 9073 let an event say. */
    private static final Set<String> KNOWN = Set.of(
            "ATTACH",
            "ATTENDEE",
            "CALENDAR-ADDRESS",
            "CATEGORIES",
            "CLASS",
            "COLOR",
            "COMMENT",
            "CONCEPT",
            "CONFERENCE",
            "CONTACT",
            "CREATED",
            "DESCRIPTION",
            "DTEND",
            "DTSTAMP",
            "DTSTART",
            "DURATION",
            "EXDATE",
            "EXRULE",
            "GEO",
            "IMAGE",
            "LAST-MODIFIED",
            "LINK",
            "LOCATION",
            "ORGANIZER",
            "PRIORITY",
            "RDATE",
            "RECURRENCE-ID",
            "REFID",
            "RELATED-TO",
            "REQUEST-STATUS",
            "RESOURCES",
            "RRULE",
            "SEQUENCE",
            "SOURCE",
            "STATUS",
            "STRUCTURED-DATA",
            "STYLED-DESCRIPTION",
            "SUMMARY",
            "TRANSP",
            "UID",
            "URL");

    private final Block block;
    private final List<Line> lines;
    private final ZoneNames zones;
    private final Effort effort;
    private final DateValue begin;
    private final ZoneId zone;
    private final long length;

    /**
     * Reads an event.
     *
     * @param seen the zone for events in UTC
     */
    Event(Block block, ZoneId seen, ZoneNames zones, Effort effort) {
        this.block = block;
        this.zones = zones;
        this.effort = effort;
        lines = ContentLines.of(block.lines(), "calendar");
        effort.of(name());
        begin = first("DTSTART")
                .or(() -> first("RECURRENCE-ID").filter(line -> isCancelled()))
                .map(line -> DateValue.of(line, zones))
                .orElseThrow(() -> wrong("has no DTSTART"));
        boolean inUtc = begin.zone().filter(ZoneId.of("UTC")::equals).isPresent();
        zone = inUtc ? seen : begin.zone().orElse(seen);
        length = lengthOf(begin);
    }

    /** {@return the lines whose names no event has, such as a misspelt RRULE} */
    List<Warning> strange() {
        return lines.stream()
                .filter(line -> !line.name.startsWith("X-") && !KNOWN.contains(line.name))
                .map(line -> new Warning(line.number, "names " + line.name + ", which no event has, and was left out"))
                .toList();
    }

    private RuntimeException wrong(String rule) {
        return Problems.of("calendar", name(), 0, rule + " (line " + block.line() + ")");
    }

    private List<Line> all(String name) {
        return lines.stream().filter(line -> line.name.equals(name)).toList();
    }

    private Optional<Line> first(String name) {
        return all(name).stream().findFirst();
    }

    String name() {
        return first("SUMMARY").or(() -> first("UID")).map(line -> line.value).orElse("an event");
    }

    Optional<String> uid() {
        return first("UID").map(line -> line.value.strip());
    }

    int line() {
        return block.line();
    }

    boolean isCancelled() {
        return first("STATUS")
                .filter(line -> line.value.strip().equalsIgnoreCase("CANCELLED"))
                .isPresent();
    }

    /** {@return how often it was changed; the highest number counts} */
    long sequence() {
        return first("SEQUENCE")
                .map(line -> line.value.strip())
                .filter(text -> text.matches("\\d{1,9}"))
                .map(Long::parseLong)
                .orElse(0L);
    }

    /** {@return which time of another event of its UID it stands for} */
    Optional<DateValue> recurrenceId() {
        return first("RECURRENCE-ID").map(line -> DateValue.of(line, zones));
    }

    boolean isForAllThatFollow() {
        return first("RECURRENCE-ID")
                .filter(line -> line.parameter("RANGE").toUpperCase(Locale.ROOT).equals("THISANDFUTURE"))
                .isPresent();
    }

    ZoneId zone() {
        return zone;
    }

    /** {@return when it begins} */
    long start() {
        return begin.secondsIn(zone);
    }

    /** {@return how long it lasts, in seconds of wall-clock time; a date alone is a whole day} */
    long length() {
        return length;
    }

    private long lengthOf(DateValue start) {
        Optional<Line> end = first("DTEND");
        long found = end.isPresent()
                ? DateValue.of(end.get(), zones).secondsIn(zone) - start.secondsIn(zone)
                : first("DURATION").map(line -> duration(line.value)).orElse(start.dateOnly() ? DAY : 0);
        return checked(found);
    }

    private long checked(long length) {
        if (length < 0) {
            throw wrong("ends before it begins");
        }
        if (length > LONGEST) {
            throw wrong("lasts longer than ten years");
        }
        return length;
    }

    private long duration(String text) {
        String value = text.strip().toUpperCase(Locale.ROOT);
        try {
            return value.matches("[+]?P\\d+[WD]")
                    ? Period.parse(value).get(ChronoUnit.DAYS) * DAY
                    : Duration.parse(value).toSeconds();
        } catch (DateTimeException | ArithmeticException malformed) {
            throw wrong("has a DURATION that is none: " + Problems.shortened(text));
        }
    }

    /** {@return lengths of its own that some of its times have, by RDATE with a PERIOD} */
    Map<Long, Long> ownLengths() {
        Map<Long, Long> lengths = new HashMap<>();
        for (Line line : all("RDATE")) {
            for (DateValue value : DateValue.allOf(line, zones)) {
                value.period()
                        .ifPresent(text -> lengths.put(
                                value.secondsIn(zone),
                                checked(value.end()
                                        .map(end -> end.secondsIn(zone) - value.secondsIn(zone))
                                        .orElseGet(() -> duration(text)))));
            }
        }
        return lengths;
    }

    /**
     * {@return when it happens, DTSTART included}
     *
     * @param moved times that other events stand for, as this one's zone has them
     */
    LocalTimes times(List<Long> moved) {
        LocalDateTime local = begin.in(zone);
        List<Long> own = new ArrayList<>(seconds("RDATE"));
        own.add(local.toEpochSecond(ZoneOffset.UTC));
        List<Long> excluded = new ArrayList<>(seconds("EXDATE"));
        excluded.addAll(moved);
        for (Line rule : all("EXRULE")) {
            excludeBy(rule, local, excluded);
        }
        // RFC 5545, 3.8.5.3, advises against more than one, and allows it: what any of them names.
        List<LocalTimes> rules = all("RRULE").stream()
                .map(rule -> (LocalTimes) new Recurrence(RuleParts.read(rule.value, zone), local, effort))
                .toList();
        return new RuleTimes(SeveralTimes.of(rules), array(own), array(excluded));
    }

    /** An exception rule, which RFC 2445 had and 5545 no longer has, names times as a rule does; DTSTART only if it fits. */
    private void excludeBy(Line rule, LocalDateTime local, List<Long> excluded) {
        RuleParts parts = RuleParts.read(rule.value, zone);
        Recurrence times = new Recurrence(parts, local, effort);
        long start = local.toEpochSecond(ZoneOffset.UTC);
        long at = times.names(start) ? start : times.next(start + 1);
        for (; at != LocalTimes.NONE && at <= CalendarFile.LAST; at = times.next(at + 1)) {
            excluded.add(at);
            if (excluded.size() > MOST_EXCLUDED) {
                throw wrong("has an EXRULE of more than " + MOST_EXCLUDED + " times (give it an UNTIL)");
            }
        }
    }

    private List<Long> seconds(String name) {
        return all(name).stream()
                .flatMap(line -> DateValue.allOf(line, zones).stream())
                .map(value -> value.secondsIn(zone))
                .toList();
    }

    private static long[] array(List<Long> values) {
        return values.stream().mapToLong(Long::longValue).toArray();
    }
}
