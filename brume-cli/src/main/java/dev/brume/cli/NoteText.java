package dev.brume.cli;

import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import java.time.LocalDate;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.stream.Collectors;

/** Says what policies did to an occurrence. */
final class NoteText {
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);

    private NoteText() {}

    static String of(Occurrence occurrence) {
        return occurrence.notes().stream()
                .map(note -> note + detail(note, occurrence))
                .collect(Collectors.joining("; "));
    }

    private static String detail(Note note, Occurrence occurrence) {
        String time = occurrence.nominal().toLocalTime().toString();
        LocalDate day = occurrence.nominal().toLocalDate();
        return switch (note) {
            case MOVED -> ": " + DAY.format(day) + " is off";
            case MERGED -> ": two in one";
            case AFTER_GAP -> ": " + time + " is skipped that day";
            case FIRST_OF_FOLD, SECOND_OF_FOLD -> ": " + time + " comes twice that day";
            case SPREAD -> "";
            case ESTIMATED -> ": depends on when a run ends";
        };
    }
}
