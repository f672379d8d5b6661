package dev.brume.ical;

import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * Reads the days that the events of an iCalendar file cover: holidays, closures, feasts.
 *
 * <p>An all-day event covers its dates up to DTEND (exclusive). A timed one covers every date of its own zone that it
 * touches; one in UTC is seen in the zone given. Recurring events count until the end of {@value #LAST_YEAR};
 * cancelled ones do not, and single times of a recurring event that are moved or cancelled (RECURRENCE-ID) count as they are then.
 * What is not understood is told as a warning. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class CalendarFile {
    /** Events that recur for ever are followed until the end of this year. */
    public static final int LAST_YEAR = 2100;

    static final long LAST = LocalDateTime.of(LAST_YEAR, 12, 31, 23, 59, 59).toEpochSecond(ZoneOffset.UTC);

    private static final long MOST_BYTES = 16L * 1024 * 1024;
    private static final int MOST_DATES = 100_000;
    private static final long DAY = 86_400;

    /** What else a calendar holds without saying anything about days that are covered. */
    private static final Set<String> OF_NO_CONCERN = Set.of("VTIMEZONE", "VEVENT", "VALARM");

    private final ZoneId zone;
    private final Effort effort = new Effort("calendar");
    private final SortedSet<LocalDate> days = new TreeSet<>();
    private final List<Warning> warnings = new ArrayList<>();

    private CalendarFile(ZoneId zone) {
        this.zone = zone;
    }

    /**
     * Reads a file.
     *
     * @param zone for events in UTC
     * @throws ScheduleSyntaxException if it is no iCalendar file or an event in it is wrong
     * @throws IOException if it cannot be read
     */
    public static CalendarDays read(Path file, ZoneId zone) throws IOException {
        if (Files.size(file) > MOST_BYTES) {
            throw Problems.of("calendar", file.toString(), 0, "is larger than 16 MB");
        }
        return read(Files.readAllBytes(file), zone);
    }

    /** Reads the bytes of a file, as {@link #read(Path, ZoneId)} does. */
    public static CalendarDays read(byte[] file, ZoneId zone) {
        return new CalendarFile(zone).read(file);
    }

    private CalendarDays read(byte[] file) {
        List<Block> calendars = Block.read(TextLines.of(file, "calendar"), "calendar", warnings::add);
        List<Block> timezones = new ArrayList<>();
        calendars.forEach(calendar -> timezones.addAll(calendar.inside("VTIMEZONE")));
        ZoneNames zones = new ZoneNames(timezones, warnings::add);
        Map<String, List<Event>> byUid = new LinkedHashMap<>();
        for (Block calendar : calendars) {
            for (Block block : calendar.inside()) {
                if (block.name().equals("VEVENT")) {
                    Event event = new Event(block, zone, zones, effort);
                    warnings.addAll(event.strange());
                    byUid.computeIfAbsent(event.uid().orElse("line " + event.line()), uid -> new ArrayList<>())
                            .add(event);
                } else if (!OF_NO_CONCERN.contains(block.name())
                        && !block.name().startsWith("X-")) {
                    warnings.add(new Warning(
                            block.line(),
                            "holds a " + block.name() + ", which covers no days: only events are looked at"));
                }
            }
        }
        byUid.values().forEach(this::add);
        warnings.sort(Comparator.comparingInt(Warning::line));
        return new CalendarDays(days, warnings);
    }

    /** Events of one UID: those that recur, and those that stand for single times of theirs. */
    private void add(List<Event> events) {
        List<Event> changes = events.stream()
                .filter(event -> event.recurrenceId().isPresent())
                .sorted(Comparator.comparingLong(Event::sequence))
                .toList();
        Map<LocalDateTime, Event> newest = new LinkedHashMap<>();
        changes.forEach(change -> newest.put(change.recurrenceId().orElseThrow().in(change.zone()), change));
        events.stream()
                .filter(event -> event.recurrenceId().isEmpty())
                .filter(event -> !event.isCancelled())
                .forEach(event -> add(event, newest.values()));
        newest.values().stream()
                .filter(change -> !change.isCancelled() && !change.isForAllThatFollow())
                .forEach(
                        change -> cover(change, change.times(List.of()), change.start(), LAST + 1, 0, change.length()));
    }

    /** From one time on, all may be moved by as much, last as long, or be cancelled. */
    private record Stretch(long shift, long length, boolean cancelled) {}

    private void add(Event event, Iterable<Event> changes) {
        List<Long> moved = new ArrayList<>();
        TreeMap<Long, Stretch> stretches = new TreeMap<>();
        stretches.put(event.start(), new Stretch(0, event.length(), /* cancelled= */ false));
        for (Event change : changes) {
            long at = change.recurrenceId().orElseThrow().secondsIn(event.zone());
            if (change.isForAllThatFollow()) {
                long shift =
                        change.start() - change.recurrenceId().orElseThrow().secondsIn(change.zone());
                stretches.put(at, new Stretch(shift, change.length(), change.isCancelled()));
            } else {
                moved.add(at);
            }
        }
        if (!moved.isEmpty()) {
            warnOfOthers(event, changes);
        }
        LocalTimes times = event.times(moved);
        stretches.forEach((from, stretch) -> {
            Long until = stretches.higherKey(from);
            if (!stretch.cancelled) {
                cover(event, times, from, until == null ? LAST + 1 : until, stretch.shift, stretch.length);
            }
        });
        event.ownLengths().forEach((at, length) -> cover(event, times, at, at + 1, 0, length));
    }

    /** What stands for a time that there is none of moves nothing, and whoever wrote it meant something. */
    private void warnOfOthers(Event event, Iterable<Event> changes) {
        LocalTimes all = event.times(List.of());
        for (Event change : changes) {
            long at = change.recurrenceId().orElseThrow().secondsIn(event.zone());
            if (all.next(at) != at) {
                warnings.add(new Warning(
                        change.line(),
                        "begins an event that stands for a time that '" + Problems.shortened(event.name())
                                + "' does not have, by its RECURRENCE-ID"));
            }
        }
    }

    /**
     * Adds the days of some times of an event.
     *
     * @param from inclusive
     * @param until exclusive
     * @param shift by how many seconds each is moved
     */
    private void cover(Event event, LocalTimes times, long from, long until, long shift, long length) {
        effort.of(event.name());
        LocalDate covered = LocalDate.MIN;
        for (long at = times.next(from); at != LocalTimes.NONE && at < until && at <= LAST; ) {
            long nextDay = (Math.floorDiv(at, DAY) + 1) * DAY;
            long latest = times.previous(Math.min(nextDay, until) - 1);
            LocalDate first = LocalDate.ofEpochDay(Math.floorDiv(at + shift, DAY));
            LocalDate last = LocalDate.ofEpochDay(Math.floorDiv(latest + shift + Math.max(1, length) - 1, DAY));
            LocalDate begin = first.isAfter(covered) ? first : covered.plusDays(1);
            for (LocalDate day = begin; !day.isAfter(last); day = day.plusDays(1)) {
                days.add(day);
            }
            covered = last.isAfter(covered) ? last : covered;
            if (days.size() > MOST_DATES) {
                throw Problems.of("calendar", event.name(), 0, "brings it above " + MOST_DATES + " days");
            }
            at = times.next(nextDay);
        }
    }
}
