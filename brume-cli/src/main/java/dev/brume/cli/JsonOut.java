package dev.brume.cli;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Subject;
import dev.brume.definitions.Views;
import dev.brume.schedule.Occurrence;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.YearMonth;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What commands print for programs: camelCase fields, instants in UTC, nothing left out that is null. */
final class JsonOut {
    private JsonOut() {}

    /** {@return the same JSON on a line; empty if there is none} */
    static Optional<String> compact(String json) {
        try {
            return json.isBlank() ? Optional.empty() : Optional.of(JsonText.line(JSON.std.anyFrom(json)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    static Map<String, Object> occurrence(String job, Occurrence occurrence) {
        return named(job, Views.occurrence(occurrence));
    }

    /** Puts the job first, if it is about one. */
    private static Map<String, Object> named(String job, Map<String, Object> rest) {
        if (job.isEmpty()) {
            return rest;
        }
        Map<String, Object> named = object("job", job);
        named.putAll(rest);
        return named;
    }

    static Map<String, @Nullable Object> object(@Nullable Object... namesAndValues) {
        return Views.object(namesAndValues);
    }

    static Map<String, Object> transition(String job, TransitionDays day) {
        Map<String, Object> plain = object(
                "date", day.change().getDateTimeBefore().toLocalDate(),
                "zone", day.zone().getId(),
                "at", day.change().getInstant(),
                "from", day.change().getDateTimeBefore(),
                "to", day.change().getDateTimeAfter(),
                "owed", day.owed().size(),
                "owedAWeekBefore", day.ordinary(),
                "occurrences",
                        day.listed().stream()
                                .map(occurrence -> occurrence("", occurrence))
                                .toList());
        return named(job, plain);
    }

    static List<Map<String, Object>> month(Subject subject, YearMonth month) {
        List<Map<String, Object>> days = new ArrayList<>();
        for (LocalDate day = month.atDay(1); !day.isAfter(month.atEndOfMonth()); day = day.plusDays(1)) {
            Instant from = day.atStartOfDay(subject.zone()).toInstant();
            Instant until = day.plusDays(1).atStartOfDay(subject.zone()).toInstant();
            Map<String, Object> plain = object(
                    "date", day,
                    "owed", subject.timeline().count(from, until),
                    "first",
                            subject.timeline()
                                    .next(from.minusNanos(1))
                                    .map(Occurrence::instant)
                                    .filter(at -> at.isBefore(until)));
            days.add(named(subject.name(), plain));
        }
        return days;
    }
}
