package dev.brume.jdbc;

import dev.brume.Allowance;
import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.history.CauseRow;
import dev.brume.history.FeedEvent;
import dev.brume.internal.document.AllowanceDocument;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.NoticeDocuments;
import dev.brume.internal.document.PinsDocument;
import dev.brume.internal.document.TellingDocument;
import dev.brume.notice.Notice;
import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.FeedNote;
import dev.brume.spi.Notable;
import dev.brume.spi.Pins;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;

/** The JSON texts that columns hold: definitions and attempts. */
final class Json {
    private static final Set<String> FEED_KINDS =
            Arrays.stream(FeedEvent.Kind.values()).map(Enum::name).collect(Collectors.toUnmodifiableSet());

    private Json() {}

    static String definition(Job job) {
        return write(JobDocument.write(job));
    }

    /** {@return the job, empty if the definition says things that this version does not know} */
    static Optional<Job> definition(JobName key, String text) {
        List<DocumentProblem> problems = new ArrayList<>();
        try {
            return JobDocument.read(key, "", JsonText.map(text), Optional.empty(), problems);
        } catch (IOException e) {
            throw new UncheckedIOException("the stored definition of " + key + " is not JSON", e);
        }
    }

    /** Pins; empty for none. */
    static Optional<String> pins(Pins pins) {
        Map<String, Object> document = PinsDocument.write(pins);
        return document.isEmpty() ? Optional.empty() : Optional.of(write(document));
    }

    static Pins pins(Optional<String> text, String tzdata) {
        if (text.isEmpty()) {
            return new Pins(Map.of(), List.of(), tzdata);
        }
        try {
            return PinsDocument.read(JsonText.map(text.get()), tzdata);
        } catch (IOException e) {
            throw new UncheckedIOException("stored pins are not JSON: " + text.get(), e);
        }
    }

    static String allowance(Allowance allowance) {
        return write(AllowanceDocument.write(allowance));
    }

    /** A newer version may allow what this one does not know: nothing is let past it by guessing. */
    static Allowance allowance(String namespace, String text) {
        List<DocumentProblem> problems = new ArrayList<>();
        try {
            return AllowanceDocument.read(JsonText.map(text), problems)
                    .orElseThrow(() -> new StoreException(
                            StoreException.Trouble.SCHEMA,
                            "the allowance of the namespace " + namespace + " says what this version does not know: "
                                    + problems.get(0),
                            null));
        } catch (IOException e) {
            throw new UncheckedIOException("the stored allowance of " + namespace + " is not JSON", e);
        }
    }

    static String calendar(DayCalendar calendar) {
        return write(CalendarDocument.write(calendar));
    }

    static DayCalendar calendar(CalendarName key, String text) {
        List<DocumentProblem> problems = new ArrayList<>();
        try {
            return CalendarDocument.read(
                            key.reference(),
                            "",
                            JsonText.map(text),
                            file -> {
                                throw new IllegalArgumentException("a stored calendar names no file");
                            },
                            problems)
                    .orElseThrow(() -> new IllegalStateException(
                            "the stored calendar " + key + " is not one this version understands: " + problems));
        } catch (IOException e) {
            throw new UncheckedIOException("the stored calendar " + key + " is not JSON", e);
        }
    }

    /** Attempts; empty for none. */
    static Optional<String> attempts(List<Attempt> attempts) {
        if (attempts.isEmpty()) {
            return Optional.empty();
        }
        List<Map<String, Object>> list = new ArrayList<>();
        for (Attempt attempt : attempts) {
            Map<String, Object> map = new LinkedHashMap<>();
            map.put("number", attempt.number());
            map.put("instance", attempt.instance());
            map.put("session", attempt.session().toString());
            map.put("fence", attempt.fence());
            map.put("startedAt", attempt.startedAt().toString());
            attempt.endedAt().ifPresent(at -> map.put("endedAt", at.toString()));
            attempt.end().ifPresent(end -> map.put("end", end.name()));
            attempt.error().ifPresent(error -> map.put("error", error));
            attempt.trace().ifPresent(trace -> map.put("trace", trace));
            list.add(map);
        }
        return Optional.of(write(list));
    }

    static List<Attempt> attempts(Optional<String> text) {
        if (text.isEmpty()) {
            return List.of();
        }
        try {
            List<Attempt> attempts = new ArrayList<>();
            for (Object item : JsonText.list(text.get())) {
                attempts.add(attempt((Map<?, ?>) item));
            }
            return attempts;
        } catch (IOException e) {
            throw new UncheckedIOException("stored attempts are not JSON: " + text.get(), e);
        }
    }

    /** The errors of attempts, by attempt; empty for none. */
    static Optional<String> errors(List<Attempt> attempts) {
        Map<String, Object> errors = new LinkedHashMap<>();
        attempts.forEach(attempt ->
                attempt.error().ifPresent(error -> errors.put(Integer.toString(attempt.number()), error)));
        return errors.isEmpty() ? Optional.empty() : Optional.of(write(errors));
    }

    /** {@return attempts with the errors that are kept apart from them} */
    static List<Attempt> withErrors(List<Attempt> attempts, Optional<String> text) {
        if (text.isEmpty()) {
            return attempts;
        }
        try {
            Map<String, Object> errors = JsonText.map(text.get());
            return attempts.stream()
                    .map(attempt -> attempt.withError(
                            Optional.ofNullable((String) errors.get(Integer.toString(attempt.number())))))
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException("stored errors are not JSON: " + text.get(), e);
        }
    }

    private static Attempt attempt(Map<?, ?> map) {
        return new Attempt(
                ((Number) stored(map, "number")).intValue(),
                (String) stored(map, "instance"),
                UUID.fromString((String) stored(map, "session")),
                ((Number) stored(map, "fence")).longValue(),
                Instant.parse((String) stored(map, "startedAt")),
                Optional.ofNullable((String) map.get("endedAt")).map(Instant::parse),
                Optional.ofNullable((String) map.get("end")).map(AttemptEnd::valueOf),
                Optional.ofNullable((String) map.get("error")),
                Optional.ofNullable((String) map.get("trace")));
    }

    private static Object stored(Map<?, ?> map, String key) {
        return Objects.requireNonNull(map.get(key), () -> "a stored attempt has no " + key);
    }

    /** What a transaction has changed, as the feed keeps it. */
    static String feed(List<FeedNote> notes) {
        return write(notes.stream()
                .map(note -> {
                    Map<String, Object> map = new LinkedHashMap<>();
                    map.put("kind", note.kind().name());
                    note.jobId().ifPresent(id -> map.put("jobId", id));
                    note.job().ifPresent(name -> map.put("job", name.toString()));
                    note.run().ifPresent(run -> map.put("run", run));
                    map.put("facts", note.facts());
                    return map;
                })
                .toList());
    }

    /** {@return each note at its place, empty where it is of a kind that only a newer version knows} */
    static List<Optional<FeedNote>> feed(String text) {
        try {
            List<Optional<FeedNote>> notes = new ArrayList<>();
            for (Object item : JsonText.list(text)) {
                Map<?, ?> map = (Map<?, ?>) item;
                String kind = (String) stored(map, "kind");
                if (!FEED_KINDS.contains(kind)) {
                    notes.add(Optional.empty());
                    continue;
                }
                Map<String, String> facts = new LinkedHashMap<>();
                ((Map<?, ?>) stored(map, "facts")).forEach((name, value) -> facts.put((String) name, (String) value));
                notes.add(Optional.of(new FeedNote(
                        FeedEvent.Kind.valueOf(kind),
                        Optional.ofNullable((Number) map.get("jobId")).map(Number::longValue),
                        Optional.ofNullable((String) map.get("job")).map(JobName::parse),
                        Optional.ofNullable((Number) map.get("run")).map(Number::longValue),
                        facts)));
            }
            return notes;
        } catch (IOException e) {
            throw new UncheckedIOException("a stored part of the feed is not JSON: " + text, e);
        }
    }

    static String telling(Telling telling) {
        return write(TellingDocument.write(telling));
    }

    /** What a newer version has added is left out. */
    static Telling telling(String source, String text) {
        return TellingDocument.read(members("what " + source + " says about notices", text), new ArrayList<>());
    }

    static String notables(List<Notable> notables) {
        return write(notables.stream().map(NoticeDocuments::write).toList());
    }

    static List<Notable> notables(String text) {
        try {
            return JsonText.list(text).stream()
                    .flatMap(item -> NoticeDocuments.notable((Map<?, ?>) item).stream())
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException("a stored note of what happened is not JSON: " + text, e);
        }
    }

    static String cause(CauseRow cause) {
        return write(NoticeDocuments.write(cause));
    }

    static Optional<CauseRow> cause(
            String key, Optional<Long> job, Instant openedAt, Instant lastAt, Optional<Instant> closedAt, String text) {
        return NoticeDocuments.cause(key, job, openedAt, lastAt, closedAt, members("cause " + key, text));
    }

    static String notice(Notice notice) {
        return write(NoticeDocuments.write(notice));
    }

    static Notice notice(String id, String cause, String channel, String kind, Instant at, String text) {
        return NoticeDocuments.notice(id, cause, channel, kind, at, members("notice " + id, text));
    }

    private static Map<String, Object> members(String what, String text) {
        try {
            return JsonText.map(text);
        } catch (IOException e) {
            throw new UncheckedIOException("the stored " + what + " is not JSON: " + text, e);
        }
    }

    private static String write(Object value) {
        try {
            return JsonText.write(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
