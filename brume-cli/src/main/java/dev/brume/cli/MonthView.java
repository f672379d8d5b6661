package dev.brume.cli;

import dev.brume.definitions.Subject;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;

/** A month as a calendar: on each day the time of its occurrence, or how many there are. */
final class MonthView {
    private static final DateTimeFormatter MONTH = DateTimeFormatter.ofPattern("MMMM uuuu", Locale.ENGLISH);
    private static final int CELL = 11;

    private final Subject subject;
    private final YearMonth month;
    private final ZoneId zone;
    private final Palette palette;
    private final List<String> remarks = new ArrayList<>();

    MonthView(Subject subject, YearMonth month, Palette palette) {
        this.subject = subject;
        this.month = month;
        this.zone = subject.zone();
        this.palette = palette;
    }

    List<String> lines() {
        List<String> lines = new ArrayList<>();
        lines.add(palette.bold(MONTH.format(month) + ", " + Times.name(zone)));
        StringBuilder heads = new StringBuilder();
        for (String day : List.of("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")) {
            heads.append(String.format(Locale.ROOT, "%-" + CELL + "s", day));
        }
        lines.add(palette.faint(heads.toString().stripTrailing()));
        LocalDate first = month.atDay(1);
        StringBuilder week =
                new StringBuilder(" ".repeat(CELL * (first.getDayOfWeek().getValue() - 1)));
        for (LocalDate day = first; !day.isAfter(month.atEndOfMonth()); day = day.plusDays(1)) {
            week.append(cell(day));
            if (day.getDayOfWeek().getValue() == 7 || day.equals(month.atEndOfMonth())) {
                lines.add(week.toString().stripTrailing());
                week.setLength(0);
            }
        }
        remarks.forEach(lines::add);
        return lines;
    }

    /** {@code 28!01:00}, {@code 3 x24}, {@code 4 .}: a day and what is due on it. */
    private String cell(LocalDate day) {
        Instant from = day.atStartOfDay(zone).toInstant();
        Instant until = day.plusDays(1).atStartOfDay(zone).toInstant();
        long count = subject.timeline().count(from, until);
        Set<Note> notes = EnumSet.noneOf(Note.class);
        Set<LocalTime> times = new TreeSet<>();
        if (count > 0 && count <= 400) {
            subject.timeline().between(from, until).forEach(occurrence -> {
                times.add(occurrence.instant().atZone(zone).toLocalTime());
                notes.addAll(occurrence.notes());
                remark(day, occurrence);
            });
        }
        notes.remove(Note.SPREAD);
        String what = count == 0
                ? "."
                : count == 1 ? times.iterator().next().toString().substring(0, 5) : "x" + count;
        String text = String.format(Locale.ROOT, "%2d%s%s", day.getDayOfMonth(), notes.isEmpty() ? " " : "!", what);
        return count == 0 ? palette.faint(pad(text)) : pad(text);
    }

    private static String clock(LocalTime time) {
        return time.getSecond() == 0
                ? time.toString().substring(0, 5)
                : time.withNano(0).toString();
    }

    private static String pad(String text) {
        return String.format(Locale.ROOT, "%-" + CELL + "s", text);
    }

    private void remark(LocalDate day, Occurrence occurrence) {
        boolean only = Set.of(Note.SPREAD).containsAll(occurrence.notes());
        if (!only && remarks.size() < 12) {
            remarks.add("! " + day + " " + clock(occurrence.local().toLocalTime()) + "  " + NoteText.of(occurrence));
        }
    }
}
