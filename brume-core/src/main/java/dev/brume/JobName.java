package dev.brume;

import java.util.Comparator;

/**
 * The name of a job: {@code namespace/name}, or just {@code name} in the namespace {@code main}.
 *
 * @param namespace letters, digits, {@code .}, {@code _} and {@code -}, at most 100
 * @param name the same
 * @since 0.1.0
 */
public record JobName(String namespace, String name) implements Comparable<JobName> {
    /** The namespace of a name without one. */
    public static final String MAIN = "main";

    /** The form of a name, for messages. */
    public static final String RULE = "a letter or digit, then letters, digits, '.', '_' or '-', at most 100 in all";

    private static final int LONGEST = 100;
    private static final Comparator<JobName> ORDER =
            Comparator.comparing(JobName::namespace).thenComparing(JobName::name);

    /**
     * Creates a key.
     *
     * @throws IllegalArgumentException if a part is not a name
     */
    public JobName {
        check("namespace", namespace);
        check("job name", name);
    }

    /** Reads {@code namespace/name} or {@code name}. */
    public static JobName parse(String text) {
        int slash = text.indexOf('/');
        return slash < 0 ? new JobName(MAIN, text) : new JobName(text.substring(0, slash), text.substring(slash + 1));
    }

    /** {@return whether a text can be a namespace or a name} */
    public static boolean isName(String text) {
        if (text.isEmpty() || text.length() > LONGEST || !isLetterOrDigit(text.charAt(0))) {
            return false;
        }
        for (int i = 1; i < text.length(); i++) {
            char c = text.charAt(i);
            if (!isLetterOrDigit(c) && c != '.' && c != '_' && c != '-') {
                return false;
            }
        }
        return true;
    }

    private static boolean isLetterOrDigit(char c) {
        return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9';
    }

    private static void check(String what, String text) {
        if (!isName(text)) {
            throw new IllegalArgumentException(what + " '" + text + "' is not a name (expected " + RULE + ")");
        }
    }

    @Override
    public int compareTo(JobName other) {
        return ORDER.compare(this, other);
    }

    /** {@return the key as people write it: without the namespace where that is {@code main}} */
    @Override
    public String toString() {
        return namespace.equals(MAIN) ? name : namespace + "/" + name;
    }
}
