package dev.brume.http;

import dev.brume.Grant;
import dev.brume.Role;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * Who makes a request, and what they may do.
 *
 * @param name who they are, in the change log too; 1 to 200 characters in one line
 * @param grants what they may do, and where; none if nothing
 * @since 0.1.0
 */
public record Caller(String name, List<Grant> grants) {
    /** Makes the list unmodifiable. */
    public Caller {
        grants = List.copyOf(grants);
    }

    /** {@return a caller with a single grant} */
    public static Caller of(String name, Grant grant) {
        return new Caller(name, List.of(grant));
    }

    /** {@return whether they may do what a role may in a namespace} */
    public boolean may(Role role, String namespace) {
        return grants.stream().anyMatch(grant -> grant.covers(role, namespace));
    }

    /** {@return whether they may do what a role may everywhere, and with what belongs to the whole cluster} */
    public boolean mayEverywhere(Role role) {
        return grants.stream()
                .anyMatch(grant -> grant.isEverywhere() && grant.role().includes(role));
    }

    /** {@return the namespaces in which they may do what a role may; empty if that is everywhere or nowhere} */
    public Set<String> namespaces(Role role) {
        if (mayEverywhere(role)) {
            return Set.of();
        }
        return grants.stream()
                .filter(grant -> grant.role().includes(role))
                .map(Grant::namespaces)
                .flatMap(Collection::stream)
                .collect(Collectors.toCollection(TreeSet::new));
    }

    /** {@return the highest role that they have anywhere} */
    public Optional<Role> highest() {
        return grants.stream().map(Grant::role).max(Role::compareTo);
    }
}
