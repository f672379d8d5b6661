package dev.brume.internal.text;

import java.util.List;
import java.util.function.Function;

/**
 * Texts with places to be filled when a run begins: <code>${run}</code>, <code>${job}</code>, <code>${planned}</code>,
 * <code>${plannedLocal}</code>, <code>${attempt}</code>, <code>${fence}</code>, <code>${payload}</code>, those of {@link #PARENT},
 * <code>${env:NAME}</code> for a variable of the instance's environment and <code>${file:PATH}</code> for a file's content. With {@code json:} before the name, as in <code>${json:payload}</code>, the value is written as what may stand between the quotes of a
 * text in JSON. Stateless.
 */
public final class Placeholders {
    /** The facts of a run that a place may name. */
    public static final List<String> FACTS = List.of(
            "run",
            "job",
            "planned",
            "plannedLocal",
            "attempt",
            "fence",
            "payload",
            "parent",
            "parentJob",
            "parentOutcome",
            "parentResult");

    /** Those that tell of the run which this one follows; empty texts if there is none. */
    public static final List<String> PARENT = List.of("parent", "parentJob", "parentOutcome", "parentResult");

    private static final String OPEN = "${";
    private static final String JSON = "json:";

    private Placeholders() {}

    /**
     * Checks a text.
     *
     * @param where it stands, for the message
     * @throws IllegalArgumentException if it names a place that there is not
     */
    public static void check(String where, String text) {
        fill(text, named -> {
            String name = plain(named);
            if (!FACTS.contains(name) && !isSecret(name)) {
                throw new IllegalArgumentException(where + ": '${" + name + "}' is not a place to fill (expected ${"
                        + String.join("}, ${", FACTS) + "}, ${env:NAME} or ${file:PATH}, each also as ${json:...})");
            }
            return "";
        });
    }

    /** {@return whether a text begins with something that is known only when it is filled} */
    public static boolean startsFilled(String text) {
        return text.startsWith("${env:") || text.startsWith("${file:");
    }

    /** {@return whether the value of a place is to be written as a text within JSON} */
    public static boolean isJson(String place) {
        return place.startsWith(JSON);
    }

    /** {@return a place without the form in which it is to be written} */
    public static String plain(String place) {
        return isJson(place) ? place.substring(JSON.length()) : place;
    }

    /** {@return a text as it stands between the quotes of a text in JSON (RFC 8259, section 7)} */
    public static String json(String text) {
        StringBuilder json = new StringBuilder(text.length() + 16);
        for (int i = 0; i < text.length(); i++) {
            char at = text.charAt(i);
            switch (at) {
                case '"', '\\' -> json.append('\\').append(at);
                case '\n' -> json.append("\\n");
                case '\r' -> json.append("\\r");
                case '\t' -> json.append("\\t");
                default -> json.append(at < 0x20 ? Texts.escape(at) : Character.toString(at));
            }
        }
        return json.toString();
    }

    /** {@return whether a place is filled from outside the run: its value is not to be shown} */
    public static boolean isSecret(String name) {
        return name.startsWith("env:") && name.length() > 4 || name.startsWith("file:") && name.length() > 5;
    }

    /**
     * Fills a text, in time proportional to its length.
     *
     * @param values gives what stands for a place
     */
    public static String fill(String text, Function<String, String> values) {
        StringBuilder filled = new StringBuilder(text.length());
        int done = 0;
        for (int open = text.indexOf(OPEN); open >= 0; open = text.indexOf(OPEN, done)) {
            int close = text.indexOf('}', open);
            if (close < 0) {
                break;
            }
            filled.append(text, done, open).append(values.apply(text.substring(open + OPEN.length(), close)));
            done = close + 1;
        }
        return filled.append(text, done, text.length()).toString();
    }
}
