package dev.brume.http;

import dev.brume.Grant;
import dev.brume.Role;
import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Optional;

/**
 * Knows who makes a request: the principals of an application, and what they may do here. Called from many threads at once.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface Callers {

    /** {@return who makes a request; empty if nobody has said} */
    Optional<Caller> of(HttpServletRequest request);

    /**
     * {@return the principals of the container, which may do everywhere what the highest role may that they are in}
     *
     * @param prefix of the names of roles, before {@code viewer}, {@code operator}, {@code author} and {@code admin}
     */
    static Callers ofContainer(String prefix) {
        List<Role> highestFirst = Arrays.asList(Role.values());
        Collections.reverse(highestFirst);
        return request -> {
            Principal principal = request.getUserPrincipal();
            return Optional.ofNullable(principal)
                    .map(who -> new Caller(
                            who.getName(),
                            highestFirst.stream()
                                    .filter(role -> request.isUserInRole(prefix + role.word()))
                                    .findFirst()
                                    .map(role -> List.of(Grant.everywhere(role)))
                                    .orElse(List.of())));
        };
    }
}
