package dev.brume;

import java.util.Collection;
import java.util.Collections;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * A role within namespaces, or within all of them.
 *
 * @param role what may be done
 * @param namespaces where; empty for everywhere, what belongs to the whole cluster included
 * @since 0.1.0
 */
public record Grant(Role role, SortedSet<String> namespaces) {
    private static final int MOST = 100;

    /**
     * Checks the namespaces.
     *
     * @throws IllegalArgumentException if one is no name, or there are more than 100
     */
    public Grant {
        if (namespaces.size() > MOST) {
            throw new IllegalArgumentException(
                    "namespaces: " + namespaces.size() + " is above " + MOST + "; grant all of them instead");
        }
        namespaces.stream().filter(name -> !JobName.isName(name)).findFirst().ifPresent(name -> {
            throw new IllegalArgumentException(
                    "namespace '" + name + "' is not a name (expected " + JobName.RULE + ")");
        });
        namespaces = Collections.unmodifiableSortedSet(new TreeSet<>(namespaces));
    }

    /** {@return a role everywhere} */
    public static Grant everywhere(Role role) {
        return new Grant(role, new TreeSet<>());
    }

    /** {@return a role within namespaces, of which there is one at least} */
    public static Grant within(Collection<String> namespaces, Role role) {
        if (namespaces.isEmpty()) {
            throw new IllegalArgumentException("namespaces: there is none; a grant for all of them says so");
        }
        return new Grant(role, new TreeSet<>(namespaces));
    }

    /** {@return whether it holds everywhere} */
    public boolean isEverywhere() {
        return namespaces.isEmpty();
    }

    /** {@return whether it lets somebody do what a role may in a namespace} */
    public boolean covers(Role wanted, String namespace) {
        return role.includes(wanted) && (isEverywhere() || namespaces.contains(namespace));
    }

    /** {@return such as {@code operator of ferry, harbour} or {@code viewer everywhere}} */
    @Override
    public String toString() {
        return role.word() + (isEverywhere() ? " everywhere" : " of " + String.join(", ", namespaces));
    }
}
