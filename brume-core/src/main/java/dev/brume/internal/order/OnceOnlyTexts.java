package dev.brume.internal.order;

import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Zones;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** How results of orders are kept with their keys. Stateless. */
final class OnceOnlyTexts {
    private OnceOnlyTexts() {}

    static String ofRuns(List<Long> runs) {
        return runs.stream().map(String::valueOf).collect(Collectors.joining(" "));
    }

    static List<Long> runs(String text) {
        return words(text).stream().map(Long::valueOf).toList();
    }

    static String ofOccurrence(Optional<Occurrence> occurrence) {
        return occurrence
                .map(each -> each.instant() + " " + each.nominal() + " "
                        + each.zone().getId()
                        + each.notes().stream().map(note -> " " + note).collect(Collectors.joining()))
                .orElse("");
    }

    static Optional<Occurrence> occurrence(String text) {
        List<String> words = words(text);
        return words.isEmpty()
                ? Optional.empty()
                : Optional.of(new Occurrence(
                        Instant.parse(words.get(0)),
                        LocalDateTime.parse(words.get(1)),
                        Zones.parse(words.get(2)),
                        words.stream().skip(3).map(Note::valueOf).collect(Collectors.toSet())));
    }

    private static List<String> words(String text) {
        return Arrays.stream(text.split(" ")).filter(word -> !word.isEmpty()).toList();
    }
}
