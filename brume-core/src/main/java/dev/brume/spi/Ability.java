package dev.brume.spi;

import dev.brume.history.Needs;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/**
 * The handlers, labels and kinds of work that an instance has and runs may need.
 *
 * @param handlers it knows, and the kinds of work that it takes
 * @param labels it carries
 * @param session it is, empty if it has none
 * @since 0.1.0
 */
public record Ability(Set<String> handlers, Set<String> labels, Optional<UUID> session) {
    /** No handler, no label, no session. */
    public static final Ability NONE = new Ability(Set.of(), Set.of(), Optional.empty());

    /** {@return the ability of an instance that carries no labels} */
    public static Ability ofHandlers(Set<String> handlers) {
        return new Ability(handlers, Set.of(), Optional.empty());
    }

    /** {@return whether it is enough for a run} */
    public boolean meets(Needs needs) {
        return needs.handler().map(handlers::contains).orElse(true)
                && labels.containsAll(needs.labels())
                && (needs.session().isEmpty() || needs.session().equals(session));
    }
}
