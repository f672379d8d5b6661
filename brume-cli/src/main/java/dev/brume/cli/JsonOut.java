package dev.brume.cli;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.definitions.Views;
import dev.brume.history.CalendarView;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.WallClockSchedule;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.YearMonth;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What commands print for programs: camelCase fields, instants in UTC, nothing left out that is null. */
final class JsonOut {
    private JsonOut() {}

    static String pretty(Object value) {
        try {
            return JSON.std
                    .with(JSON.Feature.PRETTY_PRINT_OUTPUT, JSON.Feature.WRITE_NULL_PROPERTIES)
                    .asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    static String line(Object value) {
        try {
            return JSON.std.with(JSON.Feature.WRITE_NULL_PROPERTIES).asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** {@return the same JSON on a line; empty if there is none} */
    static Optional<String> compact(String json) {
        try {
            return json.isBlank() ? Optional.empty() : Optional.of(line(JSON.std.anyFrom(json)));
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

    static Map<String, Object> calendar(CalendarView view, LocalDate today) {
        Map<String, Object> map = Views.calendar(view);
        map.putAll(object(
                "next", CalendarsCommand.next(view.row().days(), today),
                "last", view.row().days().lastDate(),
                "content", CalendarDocument.write(view.row().days())));
        return map;
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

    static Map<String, Object> explained(Subject subject, Instant now, int next) {
        List<Map<String, Object>> occurrences = subject.between(now, Instant.MAX)
                .limit(next)
                .map(occurrence -> occurrence("", occurrence))
                .toList();
        Map<String, Object> plain = object(
                "words", subject.words(),
                "schedules", subject.schedules().stream().map(JsonOut::schedule).toList(),
                "next", occurrences);
        return named(subject.name(), plain);
    }

    private static Map<String, Object> schedule(Schedule schedule) {
        Schedule rule = schedule.rule();
        Map<String, Object> map = object(
                "rule", rule.toString(),
                "words", schedule.words(),
                "zone", schedule.zone().getId());
        if (rule instanceof WallClockSchedule local) {
            map.put("gap", LookOptions.lower(local.clock().gap()));
            map.put("fold", LookOptions.lower(local.clock().fold()));
        }
        if (rule instanceof CronSchedule cron) {
            map.put("days", LookOptions.lower(cron.days()));
            map.put(
                    "fields",
                    cron.fields().stream()
                            .map(field -> object("name", field.name(), "text", field.text(), "values", field.values()))
                            .toList());
        }
        return map;
    }

    /** Counts by name, in the order given. */
    static Map<String, Object> counts(Map<?, Long> counts) {
        Map<String, Object> map = new LinkedHashMap<>();
        counts.forEach((name, count) -> map.put(name.toString(), count));
        return map;
    }
}
