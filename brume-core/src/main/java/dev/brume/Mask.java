package dev.brume;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Keeps what is secret out of the record.
 *
 * <p>It goes by names. Whatever stands behind a name, as {@code "name": value}, {@code name: value} or {@code name=value}, is
 * replaced, be it a word, a text in quotes, a list or an object; and so is the value of the environment variable of that
 * name, wherever it occurs. Names are compared without regard to case. Immutable.
 */
public final class Mask {
    /** What stands in the place of a secret. */
    public static final String STANDS_FOR = "***";

    /** Values shorter than this are not looked for: they would be found everywhere. */
    private static final int SHORTEST_VALUE = 4;

    private static final Mask NONE = new Mask(List.of(), List.of());

    private final List<Pattern> names;
    private final List<String> values;

    private Mask(List<Pattern> names, List<String> values) {
        this.names = names;
        this.values = values;
    }

    /** {@return a mask by the names of a job} */
    public static Mask of(Job job) {
        return of(job.mask());
    }

    /** {@return a mask by names alone} */
    public static Mask of(Collection<String> names) {
        return of(names, name -> Optional.empty());
    }

    /**
     * {@return a mask by names and values}
     *
     * @param environment gives the value of a variable, if it is set
     */
    public static Mask of(Collection<String> names, Function<String, Optional<String>> environment) {
        if (names.isEmpty()) {
            return NONE;
        }
        List<Pattern> patterns = names.stream()
                .map(name -> Pattern.compile(
                        "(?<![\\w.-])[\"']?" + Pattern.quote(name) + "[\"']?\\s*[:=]\\s*", Pattern.CASE_INSENSITIVE))
                .toList();
        List<String> values = new ArrayList<>();
        names.forEach(name -> environment
                .apply(name)
                .filter(value -> value.length() >= SHORTEST_VALUE)
                .ifPresent(values::add));
        return new Mask(patterns, values);
    }

    /** {@return whether it replaces nothing, whatever the text} */
    public boolean isEmpty() {
        return names.isEmpty();
    }

    /** {@return a text without its secrets} */
    public String apply(String text) {
        String masked = text;
        for (String value : values) {
            masked = masked.replace(value, STANDS_FOR);
        }
        for (Pattern name : names) {
            masked = apply(name, masked);
        }
        return masked;
    }

    private static String apply(Pattern name, String text) {
        Matcher found = name.matcher(text);
        StringBuilder masked = new StringBuilder();
        int at = 0;
        while (found.find(at)) {
            int value = found.end();
            int end = endOfValue(text, value);
            masked.append(text, at, value).append(inPlaceOf(text, value, end));
            at = end;
        }
        return masked.append(text.substring(at)).toString();
    }

    /** What is quoted stays quoted, so that a document stays one; lists, objects and numbers become texts in it. */
    private static String inPlaceOf(String text, int from, int until) {
        if (from == until) {
            return "";
        }
        char first = text.charAt(from);
        if (first == '\'') {
            return "'" + STANDS_FOR + "'";
        }
        boolean inDocument =
                from >= 2 && text.substring(0, from).stripTrailing().endsWith("\":");
        return first == '"' || first == '{' || first == '[' || inDocument ? '"' + STANDS_FOR + '"' : STANDS_FOR;
    }

    private static int endOfValue(String text, int from) {
        if (from == text.length()) {
            return from;
        }
        char first = text.charAt(from);
        if (first == '"' || first == '\'') {
            return endOfQuoted(text, from);
        }
        return first == '{' || first == '[' ? endOfNested(text, from) : endOfWord(text, from);
    }

    private static int endOfWord(String text, int from) {
        int at = from;
        while (at < text.length()
                && !Character.isWhitespace(text.charAt(at))
                && ",;&)}]\"'".indexOf(text.charAt(at)) < 0) {
            at++;
        }
        return at;
    }

    private static int endOfQuoted(String text, int from) {
        for (int at = from + 1; at < text.length(); at++) {
            if (text.charAt(at) == '\\') {
                at++;
            } else if (text.charAt(at) == text.charAt(from)) {
                return at + 1;
            }
        }
        return text.length();
    }

    private static int endOfNested(String text, int from) {
        int depth = 0;
        int at = from;
        while (at < text.length()) {
            char here = text.charAt(at);
            if (here == '"') {
                at = endOfQuoted(text, at);
                continue;
            }
            depth += here == '{' || here == '[' ? 1 : here == '}' || here == ']' ? -1 : 0;
            at++;
            if (depth == 0) {
                return at;
            }
        }
        return text.length();
    }
}
