package dev.brume.http.internal.web;

import dev.brume.definitions.Views;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.schedule.Nearest;
import dev.brume.schedule.Zones;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Function;

/**
 * A parameter of an address: how it is read, and how it is described.
 *
 * @param name of it
 * @param says what it is for
 * @param schema of its values
 * @param example of one
 * @param reading makes a value of a text; throws if it is none
 * @param <T> of its values
 */
public record Param<T>(
        String name, String says, Map<String, Object> schema, Object example, Function<String, T> reading) {

    /** {@return a text of a length that is bounded} */
    public static Param<String> text(String name, String says, int longest, String example) {
        return new Param<>(
                name, says, Views.object("type", "string", "maxLength", longest, "minLength", 1), example, text -> {
                    if (text.isEmpty() || text.length() > longest || text.indexOf('\0') >= 0) {
                        throw new IllegalArgumentException(
                                "expected 1 to " + longest + " characters, none of them NUL");
                    }
                    return text;
                });
    }

    /** {@return a number within bounds, both of them inclusive} */
    public static Param<Integer> number(String name, String says, int least, int most, int example) {
        return new Param<>(
                name, says, Views.object("type", "integer", "minimum", least, "maximum", most), example, text ->
                        (int) number(text, least, most));
    }

    static long number(String text, long least, long most) {
        if (!text.matches("\\d{1,18}") || Long.parseLong(text) < least || Long.parseLong(text) > most) {
            throw new IllegalArgumentException(
                    "'" + shortened(text) + "' is not a whole number from " + least + " to " + most);
        }
        return Long.parseLong(text);
    }

    /** {@return the number by which something is known, such as a run} */
    public static long id(String text) {
        return number(text, 1, Long.MAX_VALUE);
    }

    /** {@return a flag} */
    public static Param<Boolean> flag(String name, String says) {
        return new Param<>(name, says, Views.object("type", "boolean"), true, text -> switch (text) {
            case "true", "" -> true;
            case "false" -> false;
            default -> throw new IllegalArgumentException("'" + shortened(text) + "' is neither true nor false");
        });
    }

    /** {@return one of the words of an enumeration, in any case} */
    public static <E extends Enum<E>> Param<E> word(String name, String says, E[] values) {
        List<String> words = Arrays.stream(values).map(Enum::name).toList();
        return new Param<>(name, says, Views.object("type", "string", "enum", words), words.get(0), text -> {
            String wanted = text.toUpperCase(Locale.ROOT).replace('-', '_');
            int place = words.indexOf(wanted);
            if (place < 0) {
                throw new IllegalArgumentException("'" + shortened(text) + "' is not one of "
                        + String.join(", ", words)
                        + Nearest.to(wanted, words)
                                .map(near -> "; did you mean " + near + "?")
                                .orElse(""));
            }
            return values[place];
        });
    }

    /** {@return an instant} */
    public static Param<Instant> instant(String name, String says) {
        return new Param<>(
                name,
                says,
                Views.object("type", "string", "format", "date-time"),
                "2026-11-23T04:15:00Z",
                Param::instant);
    }

    /** {@return the instant that a text says} */
    public static Instant instant(String text) {
        try {
            // A plus sign that nobody escaped has become a space on the way.
            return Moment.checked(
                    "instant", OffsetDateTime.parse(text.replace(' ', '+')).toInstant());
        } catch (DateTimeException e) {
            throw new IllegalArgumentException(
                    "'" + shortened(text) + "' is not an instant (expected 2026-11-23T04:15:00Z or with an offset)", e);
        }
    }

    /** {@return a zone} */
    public static Param<ZoneId> zone(String name, String says) {
        return new Param<>(
                name, says, Views.object("type", "string"), "Atlantic/Azores", text -> Zones.parse(shortened(text)));
    }

    /** {@return a duration} */
    public static Param<Duration> duration(String name, String says, Duration longest) {
        return new Param<>(
                name,
                says + " At most " + Durations.format(longest) + ".",
                Views.object("type", "string", "pattern", "^(\\d+(ms|s|m|h|d))+$"),
                "24h",
                text -> Durations.checked(name, Durations.parse(shortened(text)), Duration.ZERO, longest));
    }

    /** {@return what may be shown of a text that somebody sent} */
    public static String shortened(String text) {
        return text.length() <= 100 ? text : text.substring(0, 100) + "...";
    }
}
