package dev.brume;

import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * Names a counted place that several jobs share.
 *
 * <p>Ordered by kind and then by name, byte by byte: the order in which they are locked.
 *
 * @param kind what it is for
 * @param name of the key or limit, in full: see {@link SharedName}
 * @since 0.1.0
 */
public record GateKey(Kind kind, String name) implements Comparable<GateKey> {
    private static final Comparator<GateKey> ORDER =
            Comparator.comparing((GateKey key) -> key.kind().name()).thenComparing(GateKey::name);

    /** The kinds. */
    public enum Kind {
        /** An exclusion key: at most one unfinished run of all the jobs that name it. */
        EXCLUSIVE,
        /** An exclusion key of one-offs: at most one unfinished run of all that name it; there as long as one does. */
        ONE_OFF,
        /** A limit: at most as many unfinished runs as it says. */
        LIMIT
    }

    /**
     * Creates a key.
     *
     * @throws IllegalArgumentException if the name is not one
     */
    public GateKey {
        name = SharedName.parse(name, SharedName.what(kind));
    }

    /** {@return keys as one text, empty if there are none} */
    public static Optional<String> join(Collection<GateKey> keys) {
        return keys.isEmpty()
                ? Optional.empty()
                : Optional.of(keys.stream().map(GateKey::toString).collect(Collectors.joining(",")));
    }

    /** Reads what {@link #join} wrote. */
    public static List<GateKey> split(Optional<String> text) {
        return text.stream()
                .flatMap(joined -> Arrays.stream(joined.split(",")))
                .map(each -> new GateKey(
                        Kind.valueOf(each.substring(0, each.indexOf(':'))), each.substring(each.indexOf(':') + 1)))
                .toList();
    }

    @Override
    public int compareTo(GateKey other) {
        return ORDER.compare(this, other);
    }

    @Override
    public String toString() {
        return kind + ":" + name;
    }
}
