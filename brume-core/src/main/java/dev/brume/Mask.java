package dev.brume;

import dev.brume.internal.text.Placeholders;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * Keeps what is secret out of the record.
 *
 * <p>It goes by names. Whatever stands behind a name, as {@code "name": value}, {@code name: value}, {@code name=value}, {@code --name value} or
 * {@code <name>value</name>}, is replaced, be it a word, a text in quotes, a list or an object, the rest of a header's line or a block of
 * YAML; and so is the value of the environment variable of that name, wherever it occurs, also as part of a URL or a document. Names are compared
 * without regard to case. It cannot know what is secret under another name, what was encrypted, compressed or encoded in another way (such as Base64), or
 * cut in two by whoever printed it. Immutable.
 *
 * @since 0.1.0
 */
public final class Mask {
    /** The text that replaces a secret. */
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
                        "(?:(?<=%2[2-7C])|(?<![\\w.])(?<![\\w.]-))" + Pattern.quote(name) + "(?![\\w])",
                        Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE))
                .toList();
        List<String> values = new ArrayList<>();
        names.forEach(name -> environment
                .apply(name)
                .filter(value -> value.length() >= SHORTEST_VALUE)
                .ifPresent(values::add));
        return new Mask(patterns, formsOf(values));
    }

    /** {@return a mask of values alone, wherever they occur} */
    public static Mask ofValues(Collection<String> values) {
        return new Mask(List.of(), formsOf(values));
    }

    /** The longest first, lest part of a longer one is left. */
    private static List<String> formsOf(Collection<String> values) {
        return values.stream()
                .flatMap(value -> forms(value).stream())
                .distinct()
                .sorted(Comparator.comparing(String::length).reversed().thenComparing(Comparator.naturalOrder()))
                .toList();
    }

    /** {@return whether it replaces nothing, whatever the text} */
    public boolean isEmpty() {
        return names.isEmpty() && values.isEmpty();
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
        int done = 0;
        int at = 0;
        while (found.find(at)) {
            at = found.end();
            Optional<MaskedPlace> place = MaskedPlace.of(text, found.start(), found.end());
            if (place.isPresent()) {
                masked.append(text, done, place.get().from()).append(place.get().instead());
                done = place.get().until();
                at = done;
            }
        }
        return masked.append(text.substring(done)).toString();
    }

    /** The forms in which a value is met: as it is, as part of a URL, of a document, and each of its lines. */
    private static Set<String> forms(String value) {
        Set<String> forms = new HashSet<>();
        Stream.concat(Stream.of(value), value.lines().map(String::strip))
                .filter(text -> text.length() >= SHORTEST_VALUE)
                .forEach(text -> {
                    forms.add(text);
                    String encoded = URLEncoder.encode(text, StandardCharsets.UTF_8);
                    forms.add(encoded);
                    forms.add(encoded.replace("+", "%20"));
                    forms.add(Placeholders.json(text));
                    forms.add(Placeholders.json(Placeholders.json(text)));
                    forms.add(text.replace("&", "&amp;")
                            .replace("<", "&lt;")
                            .replace(">", "&gt;")
                            .replace("\"", "&quot;"));
                });
        return forms;
    }
}
