package dev.brume.internal.document;

import dev.brume.schedule.DayCalendar;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.Collection;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;

/** Reads and writes calendars as documents. Stateless and safe for use by many threads. */
public final class CalendarDocument {
    private static final List<String> KEYS = List.of("weekly", "dates", "except", "file");

    /** Reads the days of a calendar file that a document names; refuses it with a message for people. */
    @FunctionalInterface
    public interface Files {
        /**
         * {@return the days that the file's events cover}
         *
         * @throws IllegalArgumentException if it cannot be read, saying why
         */
        SortedSet<LocalDate> days(String file);
    }

    private CalendarDocument() {}

    /**
     * Reads a calendar.
     *
     * @param name how schedules refer to it
     * @param files reads the file it may name
     * @param problems receives whatever is wrong, all of it
     * @return empty if anything was wrong
     */
    public static Optional<DayCalendar> read(
            String name, String path, Object document, Files files, List<DocumentProblem> problems) {
        int before = problems.size();
        Optional<Fields> opened = Fields.open(path, document, KEYS, problems);
        if (opened.isEmpty()) {
            return Optional.empty();
        }
        Fields fields = opened.get();
        if (!fields.has("weekly") && !fields.has("dates") && !fields.has("file")) {
            fields.noteHere("has no days (add weekly: MON-FRI, dates: [2026-12-25] or file: holidays.ics)");
        }
        Set<DayOfWeek> weekly = fields.text("weekly")
                .flatMap(text -> fields.read("weekly", () -> DayCalendar.weekdays(text)))
                .orElseGet(() -> EnumSet.noneOf(DayOfWeek.class));
        Collection<LocalDate> dates = readDates(fields, "dates", problems);
        fields.text("file")
                .flatMap(file -> fields.read("file", () -> files.days(file)))
                .ifPresent(dates::addAll);
        Collection<LocalDate> except = readDates(fields, "except", problems);
        return problems.size() > before
                ? Optional.empty()
                : fields.readHere(() -> DayCalendar.of(name, weekly, dates, except));
    }

    private static Collection<LocalDate> readDates(Fields fields, String key, List<DocumentProblem> problems) {
        List<LocalDate> dates = new ArrayList<>();
        List<String> texts = fields.texts(key).orElse(List.of());
        for (int i = 0; i < texts.size(); i++) {
            try {
                dates.add(LocalDate.parse(texts.get(i).strip()));
            } catch (DateTimeException malformed) {
                problems.add(DocumentProblem.at(
                        Fields.join(fields.path(key), i),
                        "'" + texts.get(i) + "' is not a date (expected 2026-12-25)"));
            }
        }
        return dates;
    }

    /** Writes a calendar as {@link #read} reads it back. */
    public static Map<String, Object> write(DayCalendar calendar) {
        Map<String, Object> document = new LinkedHashMap<>();
        if (!calendar.weekdays().isEmpty()) {
            List<String> days = calendar.weekdays().stream()
                    .map(day ->
                            day.getDisplayName(TextStyle.SHORT, Locale.ENGLISH).toUpperCase(Locale.ROOT))
                    .toList();
            document.put("weekly", String.join(",", days));
        }
        if (!calendar.dates().isEmpty() || calendar.weekdays().isEmpty()) {
            document.put(
                    "dates", calendar.dates().stream().map(LocalDate::toString).toList());
        }
        if (!calendar.except().isEmpty()) {
            document.put(
                    "except",
                    calendar.except().stream().map(LocalDate::toString).toList());
        }
        return document;
    }
}
