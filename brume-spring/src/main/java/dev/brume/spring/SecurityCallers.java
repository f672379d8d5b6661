package dev.brume.spring;

import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.http.Caller;
import dev.brume.http.Callers;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.security.authentication.AnonymousAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.security.core.context.SecurityContextHolder;

/**
 * Lets those in whom Spring Security knows, with what their authorities say: {@code BRUME_OPERATOR} is an operator everywhere,
 * {@code BRUME_OPERATOR:harbour} one of the namespace {@code harbour}; so are viewers, authors and admins. Other authorities say nothing here.
 *
 * <p>Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class SecurityCallers implements Callers {
    private final String prefix;

    /**
     * Reads authorities that begin with a prefix.
     *
     * @param prefix before the role, such as {@code BRUME_}
     */
    public SecurityCallers(String prefix) {
        this.prefix = Objects.requireNonNull(prefix, "prefix");
    }

    @Override
    public Optional<Caller> of(HttpServletRequest request) {
        return Optional.ofNullable(SecurityContextHolder.getContext().getAuthentication())
                .filter(who -> who.isAuthenticated() && !(who instanceof AnonymousAuthenticationToken))
                .map(who -> new Caller(who.getName(), grants(who)));
    }

    private List<Grant> grants(Authentication who) {
        return who.getAuthorities().stream()
                .map(GrantedAuthority::getAuthority)
                .filter(authority -> authority != null && authority.startsWith(prefix))
                .flatMap(authority -> grant(authority.substring(prefix.length())))
                .toList();
    }

    private static Stream<Grant> grant(String text) {
        int colon = text.indexOf(':');
        String word = colon < 0 ? text : text.substring(0, colon);
        String namespace = text.substring(colon + 1);
        return Arrays.stream(Role.values())
                .filter(role -> role.word().equalsIgnoreCase(word))
                .filter(role -> colon < 0 || JobName.isName(namespace))
                .map(role -> colon < 0 ? Grant.everywhere(role) : Grant.within(List.of(namespace), role));
    }
}
