package dev.brume.cli.desk;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.schedule.Durations;
import java.io.IOException;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** An object in the vocabulary of views, read member by member. */
public final class Seen {
    private final Map<?, ?> members;

    private Seen(Map<?, ?> members) {
        this.members = members;
    }

    /** {@return an object to be read} */
    public static Seen of(Object value) {
        if (value instanceof Map<?, ?> map) {
            return new Seen(map);
        }
        throw Garbled.of("an object", value);
    }

    /** {@return an object that a text in JSON holds} */
    static Seen parse(String json) {
        try {
            return of(JSON.std.anyFrom(json));
        } catch (IOException e) {
            throw Garbled.of("JSON", json);
        }
    }

    /** {@return all of it} */
    public Map<?, ?> whole() {
        return members;
    }

    /** {@return a list of objects to be read} */
    public static List<Seen> listOf(Object value) {
        if (value instanceof List<?> list) {
            return list.stream().map(Seen::of).toList();
        }
        throw Garbled.of("a list", value);
    }

    /** {@return whether a member is there} */
    public boolean has(String member) {
        return members.get(member) != null;
    }

    private Object at(String member) {
        Object value = members.get(member);
        if (value == null) {
            throw Garbled.of("a member '" + member + "'", members.keySet());
        }
        return value;
    }

    /** {@return a member as it is} */
    public Optional<Object> raw(String member) {
        return Optional.ofNullable(members.get(member));
    }

    /** {@return a member that may be null} */
    public Optional<String> maybe(String member) {
        return raw(member).map(String::valueOf);
    }

    /** {@return a text} */
    public String text(String member) {
        return String.valueOf(at(member));
    }

    /** {@return whether a member says so} */
    public boolean flag(String member) {
        return at(member).equals(Boolean.TRUE);
    }

    /** {@return a number, written as one or as a text} */
    public long number(String member) {
        return Long.parseLong(text(member));
    }

    /** {@return a number that may be null} */
    public Optional<Long> maybeNumber(String member) {
        return maybe(member).map(Long::valueOf);
    }

    /** {@return a number with a fraction that may be null} */
    public Optional<Double> maybeShare(String member) {
        return maybe(member).map(Double::valueOf);
    }

    /** {@return a number that fits an int} */
    public int small(String member) {
        return Math.toIntExact(number(member));
    }

    /** {@return an instant} */
    public Instant instant(String member) {
        return instantOf(text(member));
    }

    /** {@return an instant that may be null} */
    public Optional<Instant> maybeInstant(String member) {
        return maybe(member).map(Seen::instantOf);
    }

    private static Instant instantOf(String text) {
        try {
            return Instant.parse(text);
        } catch (DateTimeException e) {
            throw Garbled.of("an instant", text);
        }
    }

    /** {@return a time of a clock on the wall} */
    public LocalDateTime local(String member) {
        try {
            return LocalDateTime.parse(text(member));
        } catch (DateTimeException e) {
            throw Garbled.of("a local time", text(member));
        }
    }

    /** {@return a duration in milliseconds that may be null} */
    public Optional<Duration> maybeMillis(String member) {
        return maybeNumber(member).map(Duration::ofMillis);
    }

    /** {@return a duration that may be null, as people write it or as ISO 8601 has it} */
    public Optional<Duration> maybeDuration(String member) {
        return maybe(member).map(text -> text.startsWith("P") ? Duration.parse(text) : Durations.parse(text));
    }

    /** {@return one of some words} */
    public <E extends Enum<E>> E word(String member, Class<E> words) {
        return wordOf(text(member), words);
    }

    /** {@return one of some words, or null} */
    public <E extends Enum<E>> Optional<E> maybeWord(String member, Class<E> words) {
        return maybe(member).map(text -> wordOf(text, words));
    }

    private static <E extends Enum<E>> E wordOf(String text, Class<E> words) {
        try {
            return Enum.valueOf(words, text);
        } catch (IllegalArgumentException e) {
            throw Garbled.of("a word of " + List.of(words.getEnumConstants()), text);
        }
    }

    /** {@return an object within} */
    public Seen within(String member) {
        return of(at(member));
    }

    /** {@return an object within that may be null} */
    public Optional<Seen> maybeWithin(String member) {
        return raw(member).map(Seen::of);
    }

    /** {@return objects within} */
    public List<Seen> list(String member) {
        return listOf(at(member));
    }

    /** {@return texts within; none if there is null} */
    public List<String> texts(String member) {
        return raw(member)
                .map(value -> {
                    if (value instanceof List<?> list) {
                        return list.stream().map(String::valueOf).toList();
                    }
                    throw Garbled.of("a list", value);
                })
                .orElse(List.of());
    }

    /** {@return counts by name} */
    public Map<String, Long> counts(String member) {
        Map<String, Long> counts = new LinkedHashMap<>();
        within(member).members.forEach((name, count) -> counts.put(String.valueOf(name), ((Number) count).longValue()));
        return counts;
    }
}
