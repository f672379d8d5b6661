package dev.brume.notice;

import dev.brume.JobName;
import dev.brume.SharedName;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;

/**
 * Where notices are sent. Immutable.
 *
 * @param name in full, as {@link SharedName} has it: a namespace's own, or {@code /name} the cluster's
 * @param way how it sends
 * @param giveUpAfter how old a notice may become before it is kept as undelivered, from a minute to 30 days
 * @param quiet when what is to be told waits
 * @param templates of what is written, by the {@linkplain NoticeKind#word word} of a kind; those that are not given are Brume's own
 * @since 0.1.0
 */
public record Channel(
        String name, Way way, Duration giveUpAfter, Optional<Quiet> quiet, Map<String, String> templates) {
    /** How old a notice may become unless a channel says otherwise. */
    public static final Duration AGE = Duration.ofDays(1);

    private static final Duration SHORTEST = Duration.ofMinutes(1);
    private static final Duration LONGEST = Duration.ofDays(30);
    private static final int LONGEST_TEMPLATE = 20_000;

    /** Checks it. */
    public Channel {
        name = SharedName.parse(name, "channels");
        Objects.requireNonNull(way, "way");
        Durations.checked("giveUpAfter", giveUpAfter, SHORTEST, LONGEST);
        templates = Map.copyOf(templates);
        templates.forEach((kind, template) -> {
            if (NoticeKind.of(kind).isEmpty()) {
                throw new IllegalArgumentException("templates: '" + kind + "' is no kind of notice");
            }
            if (template.length() > LONGEST_TEMPLATE) {
                throw new IllegalArgumentException(
                        "templates: that of " + kind + " is longer than " + LONGEST_TEMPLATE + " characters");
            }
        });
    }

    /**
     * {@return a channel of a name}
     *
     * @param name {@code name} in the main namespace, {@code namespace/name}, or {@code /name} for the whole cluster's
     */
    public static Channel named(String name, Way way) {
        return new Channel(name, way, AGE, Optional.empty(), Map.of());
    }

    /** {@return the same, keeping what became older as undelivered} */
    public Channel giveUpAfter(Duration age) {
        return new Channel(name, way, age, quiet, templates);
    }

    /** {@return the same, being quiet at times} */
    public Channel quiet(Quiet times) {
        return new Channel(name, way, giveUpAfter, Optional.of(times), templates);
    }

    /** {@return the same, with another template of a kind} */
    public Channel template(NoticeKind kind, String text) {
        Map<String, String> more = new HashMap<>(templates);
        more.put(kind.word(), text);
        return new Channel(name, way, giveUpAfter, quiet, more);
    }

    /** {@return its namespace; {@code main} for one of the cluster's} */
    public String namespace() {
        return SharedName.isOfCluster(name) ? JobName.MAIN : SharedName.namespaceOf(name);
    }
}
