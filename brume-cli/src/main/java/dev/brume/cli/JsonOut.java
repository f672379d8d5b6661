package dev.brume.cli;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Attempt;
import dev.brume.history.CalendarView;
import dev.brume.history.JobView;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.OneOffView;
import dev.brume.history.Output;
import dev.brume.history.RunView;
import dev.brume.history.SessionView;
import dev.brume.history.SpanView;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.JobDocument;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.WallClockSchedule;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.YearMonth;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** What commands print for programs: camelCase fields, instants in UTC, nothing left out that is null. */
final class JsonOut {
    private static final DateTimeFormatter LOCAL = DateTimeFormatter.ofPattern("uuuu-MM-dd'T'HH:mm:ss");

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

    /** Members whose numbers name something, and are texts: a fence passes what a reader of JSON may hold exactly (RFC 8259, section 6). */
    private static final Set<String> NAMING = Set.of("run", "fence", "follows", "parent", "rerunOf");

    /** A mapping in the order given; optionals are unwrapped, other values become texts where need be. */
    static Map<String, @Nullable Object> object(@Nullable Object... namesAndValues) {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        for (int i = 0; i < namesAndValues.length; i += 2) {
            String name = String.valueOf(namesAndValues[i]);
            Object value = plain(namesAndValues[i + 1]);
            map.put(name, value instanceof Long number && NAMING.contains(name) ? Long.toString(number) : value);
        }
        return map;
    }

    private static @Nullable Object plain(@Nullable Object value) {
        if (value instanceof Optional<?> optional) {
            return optional.map(JsonOut::plain).orElse(null);
        }
        if (value instanceof LocalDateTime local) {
            return LOCAL.format(local);
        }
        if (value == null
                || value instanceof Number
                || value instanceof Boolean
                || value instanceof Map
                || value instanceof List) {
            return value;
        }
        return value.toString();
    }

    static Map<String, Object> occurrence(String job, Occurrence occurrence) {
        Map<String, Object> plain = object(
                "instant", occurrence.instant(),
                "local", occurrence.local(),
                "zone", occurrence.zone().getId(),
                "notes", occurrence.notes().stream().map(Enum::name).toList(),
                "nominal", occurrence.nominal());
        return named(job, plain);
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

    static Map<String, Object> calendar(CalendarView view, LocalDate today) {
        return object(
                "calendar", view.row().name(),
                "version", view.row().number(),
                "source", view.row().source(),
                "definedAt", view.definedAt(),
                "jobs", view.jobs(),
                "next", CalendarsCommand.next(view.row().days(), today),
                "last", view.row().days().lastDate(),
                "content", CalendarDocument.write(view.row().days()));
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

    static Map<String, Object> oneOff(OneOffView view) {
        return object(
                "job", view.job(),
                "key", view.key(),
                "dueAt", view.dueAt(),
                "payload", view.payload(),
                "orderedBy", view.orderedBy());
    }

    static Map<String, Object> job(JobView view) {
        return object(
                "job", view.row().name(),
                "description", view.job().description(),
                "schedule", view.job().scheduleInWords(),
                "enabled", view.job().enabled(),
                "paused", view.row().paused(),
                "nextAt", view.row().nextAt(),
                "lastRun",
                        view.lastEnd()
                                .map(end -> object("run", end.run(), "outcome", end.outcome(), "endedAt", end.at())),
                "unfinished", view.row().used(),
                "waiting", view.row().waiting(),
                "version", view.row().version(),
                "source", view.row().source(),
                "definedAt", view.definedAt(),
                "decidedUntil", view.row().cursor(),
                "definition", JobDocument.write(view.job()));
    }

    static Map<String, Object> run(RunView run) {
        Optional<Attempt> last = run.lastAttempt();
        return object(
                "run", run.id(),
                "job", run.job(),
                "planned", run.owed().planned(),
                "nominal", run.owed().nominal(),
                "zone", run.owed().zone(),
                "notes",
                        run.owed()
                                .note()
                                .map(notes -> List.of(notes.split(",")))
                                .orElse(List.of()),
                "origin", run.owed().origin(),
                "state", run.state(),
                "outcome", run.outcome(),
                "reason", run.reason(),
                "follows", run.owed().parent(),
                "progress", run.progress().map(now -> object("percent", now.percent(), "message", now.message())),
                "version", run.version(),
                "lane", run.lane(),
                "readyAt", run.readyAt(),
                "startedAt", last.map(Attempt::startedAt),
                "endedAt", last.flatMap(Attempt::endedAt),
                "lateMillis", firstStart(run).map(late -> late.toMillis()),
                "durationMillis", last.flatMap(JsonOut::took).map(Duration::toMillis),
                "attempts", run.attempts().size(),
                "instance", last.map(Attempt::instance),
                "fence", last.map(Attempt::fence),
                "error", last.flatMap(Attempt::error));
    }

    /** How long after the planned instant the first attempt began. */
    static Optional<Duration> firstStart(RunView run) {
        return run.attempts().stream()
                .findFirst()
                .map(first -> Duration.between(run.owed().planned(), first.startedAt()));
    }

    static Optional<Duration> took(Attempt attempt) {
        return attempt.endedAt().map(end -> Duration.between(attempt.startedAt(), end));
    }

    static Map<String, Object> runInFull(RunView run) {
        Map<String, Object> map = run(run);
        List<Object> attempts = new ArrayList<>();
        for (Attempt attempt : run.attempts()) {
            Optional<Output> output = Optional.ofNullable(run.outputs().get(attempt.number()));
            attempts.add(object(
                    "number", attempt.number(),
                    "instance", attempt.instance(),
                    "session", attempt.session(),
                    "fence", attempt.fence(),
                    "startedAt", attempt.startedAt(),
                    "endedAt", attempt.endedAt(),
                    "end", attempt.end(),
                    "error", attempt.error(),
                    "output", output.map(Output::text),
                    "outputBytes", output.map(Output::bytes),
                    "outputOmitted", output.map(Output::omitted)));
        }
        map.put("attempts", attempts);
        map.put("orderedBy", plain(run.owed().orderedBy()));
        map.put("payload", plain(run.payload()));
        map.put("result", plain(run.result()));
        return map;
    }

    static Map<String, Object> span(SpanView view) {
        return object(
                "job", view.job(),
                "reason", view.span().reason(),
                "count", view.span().isCounted() ? view.span().count() : null,
                "first", view.span().first(),
                "last", view.span().last(),
                "version", view.span().version());
    }

    /** Counts by name, in the order given. */
    static Map<String, Object> counts(Map<?, Long> counts) {
        Map<String, Object> map = new LinkedHashMap<>();
        counts.forEach((name, count) -> map.put(name.toString(), count));
        return map;
    }

    static Map<String, Object> lease(NamedLeaseRow lease, Instant now) {
        return object(
                "lease", lease.name(),
                "state", lease.state(now),
                "holder", lease.holder(),
                "fence", lease.fence(),
                "takenAt", lease.takenAt(),
                "renewedAt", lease.renewedAt(),
                "until", lease.until(),
                "freeAt", lease.freeAt());
    }

    static Map<String, Object> session(SessionView view) {
        return object(
                "instance", view.row().instance(),
                "state", view.row().state(),
                "session", view.row().id(),
                "host", view.row().host(),
                "pid", view.row().pid(),
                "lanes", view.row().lanes(),
                "labels", view.row().labels(),
                "runs", view.runs(),
                "software", view.row().software(),
                "tzdata", view.row().tzdata(),
                "epoch", view.row().epoch(),
                "openedAt", view.row().openedAt(),
                "renewedAt", view.row().renewedAt(),
                "leaseUntil", view.row().leaseUntil(),
                "endedAt", view.row().endedAt(),
                "died", view.row().died());
    }
}
