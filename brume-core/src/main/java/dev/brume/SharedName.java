package dev.brume;

import java.util.Locale;

/**
 * Names of what jobs share: exclusion keys and limits. Each belongs to a namespace, or to the cluster as a whole.
 *
 * <p>In full they are written {@code name} in the main namespace, {@code namespace/name} in another, and {@code /name} if they are the cluster's.
 * A job says {@code name} for one of its own namespace, and {@code /name}. Stateless.
 *
 * @since 0.1.0
 */
public final class SharedName {
    private static final char SLASH = '/';
    private static final String RULE =
            "expected NAME, in the job's own namespace, or /NAME, the whole cluster's; a name is " + JobName.RULE;

    private SharedName() {}

    /**
     * {@return a name in full}
     *
     * @param namespace in which it is written
     * @param text {@code name}, {@code /name}, or {@code namespace/name} with that very namespace
     * @param what is named, for the message
     * @throws IllegalArgumentException if it is no name, or one of another namespace
     */
    public static String in(String namespace, String text, String what) {
        int slash = text.indexOf(SLASH);
        String name = text.substring(slash + 1);
        if (!JobName.isName(name) || slash > 0 && !JobName.isName(text.substring(0, slash))) {
            throw new IllegalArgumentException(what + ": '" + text + "' is not a name (" + RULE + ")");
        }
        if (slash > 0 && !text.substring(0, slash).equals(namespace)) {
            throw new IllegalArgumentException(
                    what + ": '" + text + "' is another namespace's than " + namespace + " (" + RULE + ")");
        }
        return slash == 0 ? text : full(namespace, name);
    }

    /**
     * {@return a name in full that is written so, or with the main namespace}
     *
     * @throws IllegalArgumentException if it is none
     */
    public static String parse(String text, String what) {
        int slash = text.indexOf(SLASH);
        return in(slash > 0 ? text.substring(0, slash) : JobName.MAIN, text, what);
    }

    /** {@return a full name as a job of a namespace writes it} */
    public static String from(String namespace, String full) {
        String prefix = namespace + SLASH;
        return full.startsWith(prefix) ? full.substring(prefix.length()) : full;
    }

    /** {@return whether a full name is the cluster's, so that all namespaces share it} */
    public static boolean isOfCluster(String full) {
        return full.indexOf(SLASH) == 0;
    }

    /** {@return the namespace of a full name; empty if it is the cluster's} */
    public static String namespaceOf(String full) {
        int slash = full.indexOf(SLASH);
        return slash < 0 ? JobName.MAIN : full.substring(0, slash);
    }

    private static String full(String namespace, String name) {
        return namespace.equals(JobName.MAIN) ? name : namespace + SLASH + name;
    }

    /** What a gate is called in definitions. */
    static String what(GateKey.Kind kind) {
        return kind == GateKey.Kind.LIMIT ? "limits" : kind.name().toLowerCase(Locale.ROOT);
    }
}
