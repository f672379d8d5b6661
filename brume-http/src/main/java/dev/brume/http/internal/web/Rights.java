package dev.brume.http.internal.web;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.http.Caller;
import java.util.Optional;
import java.util.stream.Collectors;

/** Decides whether somebody may ask for an operation. Stateless. */
public final class Rights {
    private Rights() {}

    /**
     * Refuses what somebody may not do. What they may not even see is not there.
     *
     * @param namespace that the path names; empty if it names none
     */
    public static void check(Caller caller, Operation operation, String namespace) {
        Role role = operation.role();
        switch (operation.where()) {
            case NAMESPACE -> {
                if (!caller.may(role, namespace)) {
                    throw caller.may(Role.VIEWER, namespace)
                            ? missing(caller, role, Optional.of(namespace))
                            : new Problem(
                                    Problem.Kind.NOT_THERE,
                                    "there is no namespace '" + Param.shortened(namespace) + "' that you may look at");
                }
            }
            case ANYWHERE -> {
                if (caller.highest().filter(highest -> highest.includes(role)).isEmpty()) {
                    throw missing(caller, role, Optional.empty());
                }
            }
            case EVERYWHERE -> {
                if (!caller.mayEverywhere(role)) {
                    throw new Problem(
                            Problem.Kind.NOT_ALLOWED,
                            "this concerns the whole cluster and takes the role " + role.word() + " everywhere; "
                                    + caller.name() + " is " + words(caller));
                }
            }
        }
    }

    static Problem missing(Caller caller, Role role, Optional<String> namespace) {
        return new Problem(
                Problem.Kind.NOT_ALLOWED,
                "this takes the role " + role.word()
                        + namespace.map(name -> " in namespace '" + name + "'").orElse("") + "; " + caller.name()
                        + " is " + words(caller));
    }

    private static String words(Caller caller) {
        return caller.grants().isEmpty()
                ? "nothing here"
                : caller.grants().stream().map(Grant::toString).collect(Collectors.joining(", "));
    }
}
