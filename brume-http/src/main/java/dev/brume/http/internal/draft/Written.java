package dev.brume.http.internal.draft;

import dev.brume.Job;
import dev.brume.definitions.YamlText;
import dev.brume.internal.document.JobDocument;
import dev.brume.schedule.Durations;
import java.time.DateTimeException;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Definitions in force as people would have written them: durations as 5m, and a single schedule without a list around it. Stateless. */
public final class Written {
    private static final Set<String> DURATIONS = Set.of(
            "every",
            "afterEnd",
            "timeLimit",
            "startWithin",
            "wait",
            "cap",
            "spread",
            "keep",
            "for",
            "ifMissed",
            "endBy",
            "successWithin");

    private Written() {}

    /** {@return a job as a document} */
    static Map<String, Object> document(Job job) {
        Map<String, Object> document = new LinkedHashMap<>();
        JobDocument.write(job).forEach((key, value) -> {
            Object plain = plain(key, value);
            document.put(
                    key,
                    key.equals(JobForm.WHEN) && plain instanceof List<?> list && list.size() == 1
                            ? list.get(0)
                            : plain);
        });
        return document;
    }

    /** {@return a job as YAML} */
    public static String text(Job job) {
        return YamlText.of(document(job));
    }

    private static Object plain(String key, Object value) {
        if (value instanceof Map<?, ?> map) {
            Map<String, Object> copy = new LinkedHashMap<>();
            map.forEach((inner, each) -> copy.put(String.valueOf(inner), plain(String.valueOf(inner), each)));
            return copy;
        }
        if (value instanceof List<?> list) {
            return list.stream().map(each -> plain(key, each)).toList();
        }
        if (value instanceof String text && DURATIONS.contains(key) && text.startsWith("P")) {
            try {
                return Durations.format(Duration.parse(text));
            } catch (DateTimeException other) {
                return text;
            }
        }
        return value;
    }
}
