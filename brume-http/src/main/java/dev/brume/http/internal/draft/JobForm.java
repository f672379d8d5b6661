package dev.brume.http.internal.draft;

import dev.brume.internal.document.Fields;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The fields of a form beside a job's document: each follows the other. What the form does not have stays in the document as it is. Stateless.
 */
final class JobForm {
    /** The part that says when. */
    static final String WHEN = "when";

    /** The fields, in the order of the form. */
    static final List<String> KEYS = List.of(
            "description",
            "work",
            "handler",
            "program",
            "method",
            "url",
            "payload",
            "timeLimit",
            "attempts",
            "ifBusy",
            "ifMissed",
            "lane",
            "endBy",
            "successWithin",
            "tags",
            "enabled",
            WHEN);

    private static final List<String> TEXTS =
            List.of("description", "payload", "timeLimit", "lane", "endBy", "successWithin");
    private static final List<String> WORKS = List.of("handler", "program", "http");

    private JobForm() {}

    // From the form to the document.

    /** Puts what was filled in into a document; an empty field takes its key out. */
    static void apply(Fields form, Map<String, Object> document) {
        for (String key : TEXTS) {
            form.scalar(key).ifPresent(text -> put(document, key, text));
        }
        form.texts("tags").ifPresent(tags -> putList(document, "tags", tags));
        form.scalar("ifBusy").ifPresent(text -> put(document, "ifBusy", text));
        form.scalar("ifMissed").ifPresent(text -> within(document, "ifMissed", "run", text));
        form.scalar("attempts").ifPresent(text -> within(document, "ifFailed", "attempts", number(text)));
        form.flag("enabled").ifPresent(on -> {
            if (on) {
                document.remove("enabled");
            } else {
                document.put("enabled", false);
            }
        });
        form.scalar("work").filter(WORKS::contains).ifPresent(kind -> applyWork(kind, form, document));
    }

    private static void applyWork(String kind, Fields form, Map<String, Object> document) {
        Map<String, Object> work = mapping(document.get("work"));
        WORKS.stream().filter(other -> !other.equals(kind)).forEach(work::remove);
        if (!kind.equals("program")) {
            work.remove("environment");
            work.remove("folder");
        }
        switch (kind) {
            case "handler" -> work.put("handler", form.scalar("handler").orElse(""));
            case "program" -> work.put("program", lines(form.scalar("program").orElse("")));
            default -> {
                Map<String, Object> request = mapping(work.get("http"));
                put(request, "method", form.scalar("method").orElse(""));
                request.put("url", form.scalar("url").orElse(""));
                work.put("http", request);
            }
        }
        document.put("work", work);
    }

    private static List<String> lines(String text) {
        return text.lines().filter(line -> !line.isBlank()).toList();
    }

    /** What is no number stays as it was typed, so that it is said to be none where it stands. */
    private static Object number(String text) {
        return text.strip().matches("-?\\d{1,9}") ? Integer.valueOf(text.strip()) : text;
    }

    private static void put(Map<String, Object> document, String key, Object value) {
        if (String.valueOf(value).isBlank()) {
            document.remove(key);
        } else {
            document.put(key, value);
        }
    }

    private static void putList(Map<String, Object> document, String key, List<String> values) {
        List<String> given = values.stream()
                .map(String::strip)
                .filter(text -> !text.isEmpty())
                .toList();
        if (given.isEmpty()) {
            document.remove(key);
        } else {
            document.put(key, given);
        }
    }

    private static void within(Map<String, Object> document, String key, String inner, Object value) {
        Map<String, Object> mapping = mapping(document.get(key));
        put(mapping, inner, value);
        if (mapping.isEmpty()) {
            document.remove(key);
        } else {
            document.put(key, mapping);
        }
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> mapping(@Nullable Object value) {
        return value instanceof Map<?, ?> map ? new LinkedHashMap<>((Map<String, Object>) map) : new LinkedHashMap<>();
    }

    // From the document to the form.

    /** {@return the fields as a document has them; one that it has in a form of its own is null} */
    static Map<String, Object> of(Map<String, Object> document) {
        Map<String, Object> form = new LinkedHashMap<>();
        TEXTS.forEach(key -> form.put(key, text(document.get(key))));
        form.put("tags", document.get("tags") instanceof List<?> tags ? words(tags) : List.of());
        form.put("ifBusy", text(document.get("ifBusy")));
        form.put("ifMissed", inner(document, "ifMissed", "run"));
        form.put("attempts", inner(document, "ifFailed", "attempts"));
        form.put("enabled", !Boolean.FALSE.equals(document.get("enabled")));
        Map<String, Object> work = mapping(document.get("work"));
        Optional<String> kind = WORKS.stream().filter(work::containsKey).findFirst();
        form.put("work", kind.orElse("handler"));
        form.put("handler", text(work.get("handler")));
        form.put("program", work.get("program") instanceof List<?> command ? String.join("\n", words(command)) : "");
        Map<String, Object> request = mapping(work.get("http"));
        form.put("method", text(request.get("method")));
        form.put("url", text(request.get("url")));
        return form;
    }

    /** {@return the keys of a document that the form does not show, as people read them} */
    static List<String> besides(Map<String, Object> document) {
        List<String> shown = new ArrayList<>(TEXTS);
        shown.addAll(List.of("tags", "ifBusy", "ifMissed", "ifFailed", "enabled", "work", WHEN));
        List<String> besides = new ArrayList<>(document.keySet());
        besides.removeAll(shown);
        mapping(document.get("work")).keySet().stream()
                .filter(key -> !WORKS.contains(key))
                .forEach(key -> besides.add("work." + key));
        mapping(mapping(document.get("work")).get("http")).keySet().stream()
                .filter(key -> !List.of("method", "url").contains(key))
                .forEach(key -> besides.add("work.http." + key));
        besidesOf(document, "ifMissed", "run", besides);
        besidesOf(document, "ifFailed", "attempts", besides);
        return besides;
    }

    private static void besidesOf(Map<String, Object> document, String key, String shown, List<String> besides) {
        mapping(document.get(key)).keySet().stream()
                .filter(inner -> !inner.equals(shown))
                .forEach(inner -> besides.add(key + "." + inner));
    }

    private static @Nullable Object text(@Nullable Object value) {
        if (value == null) {
            return "";
        }
        return value instanceof Map<?, ?> || value instanceof List<?> ? null : String.valueOf(value);
    }

    private static @Nullable Object inner(Map<String, Object> document, String key, String inner) {
        Object value = document.get(key);
        return value instanceof Map<?, ?> map ? text(map.get(inner)) : text(value);
    }

    private static List<String> words(List<?> values) {
        return values.stream().map(String::valueOf).collect(Collectors.toList());
    }

    // Where what is wrong in a document stands in the form.

    private static final Map<String, String> FIELD_OF = fieldOf();

    private static Map<String, String> fieldOf() {
        Map<String, String> fields = new LinkedHashMap<>();
        Stream.concat(TEXTS.stream(), Stream.of("tags", "ifBusy", "ifMissed", "enabled", WHEN))
                .forEach(key -> fields.put("/" + key, key));
        fields.put("/ifFailed", "attempts");
        fields.put("/work/handler", "handler");
        fields.put("/work/program", "program");
        fields.put("/work/http/method", "method");
        fields.put("/work/http", "url");
        fields.put("/work", "work");
        return fields;
    }

    /** {@return the field that shows what a pointer into the document means; empty if the form has none} */
    static Optional<String> field(String pointer) {
        return FIELD_OF.entrySet().stream()
                .filter(each -> pointer.equals(each.getKey()) || pointer.startsWith(each.getKey() + "/"))
                .max((one, other) ->
                        Integer.compare(one.getKey().length(), other.getKey().length()))
                .map(Map.Entry::getValue);
    }
}
