package dev.brume.ical;

import dev.brume.ical.ContentLines.Component;
import dev.brume.ical.ContentLines.Line;
import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.io.Reader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * Reads the days that the events of an iCalendar file cover: holidays, closures, feasts.
 *
 * <p>An all-day event covers its dates up to DTEND (exclusive). A timed one covers every date of its own zone that it
 * touches; one in UTC is seen in the zone given. Recurring events count until the end of {@value #LAST_YEAR};
 * cancelled ones do not. Stateless and safe for use by many threads.
 */
public final class CalendarFile {
    /** Events that recur for ever are followed until the end of this year. */
    public static final int LAST_YEAR = 2100;

    private static final long MOST_BYTES = 16L * 1024 * 1024;
    private static final int MOST_DATES = 100_000;
    private static final long DAY = 86_400;
    private static final long LONGEST = 3660 * DAY;
    private static final long LAST =
            LocalDateTime.of(LAST_YEAR, 12, 31, 23, 59, 59).toEpochSecond(ZoneOffset.UTC);

    private CalendarFile() {}

    /**
     * Reads a file.
     *
     * @param zone for events in UTC
     * @throws ScheduleSyntaxException if it is no iCalendar file or an event in it is wrong
     * @throws IOException if it cannot be read
     */
    public static SortedSet<LocalDate> days(Path file, ZoneId zone) throws IOException {
        if (Files.size(file) > MOST_BYTES) {
            throw Problems.of("calendar", file.toString(), 0, "is larger than 16 MB");
        }
        try (Reader reader = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
            return days(reader, zone);
        }
    }

    /** Reads a stream of characters, as {@link #days(Path, ZoneId)} does. */
    public static SortedSet<LocalDate> days(Reader reader, ZoneId zone) throws IOException {
        SortedSet<LocalDate> days = new TreeSet<>();
        Effort effort = new Effort("calendar");
        for (Component component : ContentLines.ofFile(reader, "calendar")) {
            boolean cancelled = component.all("STATUS").stream().anyMatch(line -> line.value.equals("CANCELLED"));
            if (component.name().equals("VEVENT") && !cancelled) {
                addEvent(component, zone, days, effort);
            }
        }
        return days;
    }

    private static void addEvent(Component event, ZoneId zone, SortedSet<LocalDate> days, Effort effort) {
        effort.of(name(event));
        Optional<Line> startLine = event.all("DTSTART").stream().findFirst();
        if (startLine.isEmpty()) {
            throw Problems.of("calendar", name(event), 0, "has no DTSTART");
        }
        DateValue start = DateValue.of(startLine.get());
        boolean inUtc = start.zone().filter(ZoneId.of("UTC")::equals).isPresent();
        ZoneId own = inUtc ? zone : start.zone().orElse(zone);
        long seconds = start.secondsIn(own);
        long length = length(event, start, own);
        if (length > LONGEST) {
            throw Problems.of("calendar", name(event), 0, "lasts longer than ten years");
        }
        LocalTimes times = times(event, start, own, effort);
        LocalDate covered = LocalDate.MIN;
        for (long at = times.next(seconds); at != LocalTimes.NONE && at <= LAST; ) {
            LocalDate first = LocalDate.ofEpochDay(Math.floorDiv(at, DAY));
            long nextDay = (first.toEpochDay() + 1) * DAY;
            long latest = times.previous(nextDay - 1);
            LocalDate last = LocalDate.ofEpochDay(Math.floorDiv(latest + Math.max(1, length) - 1, DAY));
            LocalDate from = first.isAfter(covered) ? first : covered.plusDays(1);
            for (LocalDate day = from; !day.isAfter(last); day = day.plusDays(1)) {
                days.add(day);
            }
            covered = last.isAfter(covered) ? last : covered;
            if (days.size() > MOST_DATES) {
                throw Problems.of("calendar", name(event), 0, "brings it above " + MOST_DATES + " days");
            }
            at = times.next(nextDay);
        }
    }

    private static LocalTimes times(Component event, DateValue start, ZoneId zone, Effort effort) {
        LocalDateTime local = start.in(zone);
        List<Line> rules = event.all("RRULE");
        if (rules.size() > 1) {
            throw Problems.of("calendar", name(event), 0, "has " + rules.size() + " RRULE (expected one at most)");
        }
        long[] added = seconds(event, "RDATE", zone);
        long[] own = new long[added.length + 1];
        own[0] = local.toEpochSecond(ZoneOffset.UTC);
        System.arraycopy(added, 0, own, 1, added.length);
        LocalTimes recurrence = rules.isEmpty()
                ? new NoTimes()
                : new Recurrence(RuleParts.read(rules.get(0).value, zone), local, effort);
        return new RuleTimes(recurrence, own, seconds(event, "EXDATE", zone));
    }

    private static long[] seconds(Component event, String name, ZoneId zone) {
        return event.all(name).stream()
                .flatMap(line -> DateValue.allOf(line).stream())
                .mapToLong(value -> value.secondsIn(zone))
                .toArray();
    }

    /** How long the event lasts, in seconds of wall-clock time; a date alone is a whole day. */
    private static long length(Component event, DateValue start, ZoneId zone) {
        Optional<Line> end = event.all("DTEND").stream().findFirst();
        if (end.isPresent()) {
            long length = DateValue.of(end.get()).secondsIn(zone) - start.secondsIn(zone);
            if (length < 0) {
                throw Problems.of("calendar", name(event), 0, "ends before it begins");
            }
            return length;
        }
        Optional<Line> duration = event.all("DURATION").stream().findFirst();
        if (duration.isPresent()) {
            return duration(event, duration.get().value);
        }
        return start.dateOnly() ? DAY : 0;
    }

    private static long duration(Component event, String value) {
        try {
            return value.matches("[+]?P\\d+[WD]")
                    ? Period.parse(value).get(ChronoUnit.DAYS) * DAY
                    : Duration.parse(value).toSeconds();
        } catch (DateTimeException | ArithmeticException malformed) {
            throw Problems.of("calendar", name(event), 0, "has a DURATION that is none: " + value);
        }
    }

    private static String name(Component event) {
        return event.all("SUMMARY").stream()
                .findFirst()
                .or(() -> event.all("UID").stream().findFirst())
                .map(line -> line.value)
                .orElse("an event");
    }
}
