package dev.brume.insight.diff;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.Collection;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Writes a part of a document on one line, the way people write it in a file. Stateless. */
final class PlainText {
    private static final Pattern DURATION = Pattern.compile("PT?[0-9][0-9DHMS.T]*");

    private PlainText() {}

    static String of(Object value) {
        if (value instanceof Map<?, ?> map) {
            return map.entrySet().stream()
                    .map(entry -> entry.getKey() + ": " + of(entry.getValue()))
                    .collect(Collectors.joining(", ", "{", "}"));
        }
        if (value instanceof Collection<?> list) {
            return list.stream().map(PlainText::of).collect(Collectors.joining(", ", "[", "]"));
        }
        return value instanceof String text && DURATION.matcher(text).matches()
                ? Durations.format(Duration.parse(text))
                : String.valueOf(value);
    }
}
