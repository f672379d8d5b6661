package dev.brume.internal.document;

import dev.brume.JobName;
import dev.brume.history.CauseRow;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Trouble;
import dev.brume.spi.Notable;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** The documents in which a store keeps causes, notices, and what happened. Stateless and safe for use by many threads. */
public final class NoticeDocuments {
    private NoticeDocuments() {}

    /** {@return what happened, as a document} */
    public static Map<String, Object> write(Notable notable) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("kind", notable.kind().name());
        document.put("job", notable.job());
        notable.run().ifPresent(run -> document.put("run", run));
        notable.planned().ifPresent(at -> document.put("planned", at.toString()));
        document.put("attempt", notable.attempt());
        notable.instance().ifPresent(name -> document.put("instance", name));
        notable.at().ifPresent(at -> document.put("at", at.toString()));
        document.put("count", notable.count());
        document.put("took", notable.tookMillis());
        notable.reason().ifPresent(reason -> document.put("reason", reason));
        notable.error().ifPresent(error -> document.put("error", error));
        return document;
    }

    /** {@return what happened; empty if it is of a kind that only a newer version knows} */
    public static Optional<Notable> notable(Map<?, ?> document) {
        String kind = (String) document.get("kind");
        if (java.util.Arrays.stream(Notable.Kind.values())
                .noneMatch(known -> known.name().equals(kind))) {
            return Optional.empty();
        }
        return Optional.of(new Notable(
                Notable.Kind.valueOf(kind),
                number(document, "job"),
                Optional.ofNullable((Number) document.get("run")).map(Number::longValue),
                instant(document, "planned"),
                (int) number(document, "attempt"),
                text(document, "instance"),
                instant(document, "at"),
                number(document, "count"),
                number(document, "took"),
                text(document, "reason"),
                text(document, "error")));
    }

    /** {@return a cause, as a document} */
    public static Map<String, Object> write(CauseRow cause) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("trouble", cause.trouble().name());
        document.put("subject", cause.subject());
        document.put("count", cause.count());
        document.put("inARow", cause.inARow());
        document.put("print", cause.print());
        document.put("last", cause.last());
        document.put("told", cause.told().stream().map(NoticeDocuments::write).toList());
        cause.silence().ifPresent(silence -> {
            Map<String, Object> by = new LinkedHashMap<>();
            by.put("who", silence.who());
            by.put("because", silence.because());
            by.put("at", silence.at().toString());
            silence.until().ifPresent(until -> by.put("until", until.toString()));
            document.put("silence", by);
        });
        document.put("members", cause.members());
        return document;
    }

    private static Map<String, Object> write(CauseRow.Told told) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("channel", told.channel());
        document.put("kinds", told.kinds().stream().map(NoticeKind::name).toList());
        document.put("firstAt", told.firstAt().toString());
        document.put("at", told.at().toString());
        document.put("folded", told.folded());
        told.digestAt().ifPresent(at -> document.put("digestAt", at.toString()));
        document.put("digest", told.digestMillis());
        document.put("recovery", told.recovery());
        document.put("within", told.within());
        document.put("open", told.open());
        return document;
    }

    /** {@return a cause; empty if what is wrong is something that only a newer version knows} */
    public static Optional<CauseRow> cause(
            String key,
            Optional<Long> job,
            Instant openedAt,
            Instant lastAt,
            Optional<Instant> closedAt,
            Map<String, Object> document) {
        String trouble = (String) document.get("trouble");
        if (java.util.Arrays.stream(Trouble.values())
                .noneMatch(known -> known.name().equals(trouble))) {
            return Optional.empty();
        }
        List<CauseRow.Told> told = new ArrayList<>();
        list(document, "told").forEach(each -> told.add(told((Map<?, ?>) each)));
        Optional<CauseRow.Silence> silence = document.get("silence") instanceof Map<?, ?> by
                ? Optional.of(new CauseRow.Silence(
                        (String) by.get("who"),
                        (String) by.get("because"),
                        instant(by, "at").orElseThrow(),
                        instant(by, "until")))
                : Optional.empty();
        return Optional.of(new CauseRow(
                key,
                Trouble.valueOf(trouble),
                (String) document.get("subject"),
                job,
                openedAt,
                lastAt,
                number(document, "count"),
                (int) number(document, "inARow"),
                (String) document.get("print"),
                (String) document.get("last"),
                told,
                silence,
                list(document, "members").stream().map(String::valueOf).toList(),
                closedAt));
    }

    private static CauseRow.Told told(Map<?, ?> document) {
        Set<NoticeKind> kinds = EnumSet.noneOf(NoticeKind.class);
        list(document, "kinds")
                .forEach(name -> java.util.Arrays.stream(NoticeKind.values())
                        .filter(kind -> kind.name().equals(name))
                        .forEach(kinds::add));
        return new CauseRow.Told(
                (String) document.get("channel"),
                kinds,
                instant(document, "firstAt").orElseThrow(),
                instant(document, "at").orElseThrow(),
                number(document, "folded"),
                instant(document, "digestAt"),
                number(document, "digest"),
                Boolean.TRUE.equals(document.get("recovery")),
                Boolean.TRUE.equals(document.get("within")),
                Boolean.TRUE.equals(document.get("open")));
    }

    /** {@return the facts of a notice, as a document} */
    public static Map<String, Object> write(Notice notice) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("title", notice.title());
        notice.job().ifPresent(job -> document.put("job", job.toString()));
        document.put("facts", notice.facts());
        return document;
    }

    /** {@return a notice} */
    public static Notice notice(
            String id, String cause, String channel, String kind, Instant at, Map<String, Object> document) {
        Map<String, String> facts = new LinkedHashMap<>();
        if (document.get("facts") instanceof Map<?, ?> map) {
            map.forEach((name, value) -> facts.put((String) name, (String) value));
        }
        return new Notice(
                id,
                cause,
                channel,
                NoticeKind.of(kind).orElse(NoticeKind.FINDING),
                text(document, "job").map(JobName::parse),
                at,
                text(document, "title").orElse(kind),
                facts);
    }

    private static Optional<String> text(Map<?, ?> document, String key) {
        return Optional.ofNullable((String) document.get(key));
    }

    private static Optional<Instant> instant(Map<?, ?> document, String key) {
        return text(document, key).map(Instant::parse);
    }

    private static long number(Map<?, ?> document, String key) {
        return document.get(key) instanceof Number number ? number.longValue() : 0;
    }

    private static List<?> list(Map<?, ?> document, String key) {
        return document.get(key) instanceof List<?> list ? list : List.of();
    }
}
