package dev.brume.spring;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.http.Caller;
import jakarta.servlet.http.HttpServletRequest;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.springframework.security.authentication.AnonymousAuthenticationToken;
import org.springframework.security.authentication.TestingAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.authority.AuthorityUtils;
import org.springframework.security.core.context.SecurityContextHolder;

/** What the authorities of Spring Security say here. Run on both lines of Spring Boot. */
class SecurityCallersTest {
    private static final HttpServletRequest REQUEST = mock(HttpServletRequest.class);

    private static Optional<Caller> caller(Authentication who) {
        SecurityContextHolder.getContext().setAuthentication(who);
        return new SecurityCallers("BRUME_").of(REQUEST);
    }

    @AfterEach
    void nobody() {
        SecurityContextHolder.clearContext();
    }

    @Test
    void authoritiesSayWhoMayWhatAndWhere() {
        assertThat(caller(new TestingAuthenticationToken(
                                "ines",
                                "",
                                "BRUME_VIEWER",
                                "BRUME_OPERATOR:harbour",
                                "ROLE_USER",
                                "BRUME_CAPTAIN",
                                "BRUME_ADMIN:no such"))
                        .orElseThrow())
                .isEqualTo(new Caller(
                        "ines",
                        List.of(Grant.everywhere(Role.VIEWER), Grant.within(List.of("harbour"), Role.OPERATOR))));
        assertThat(caller(new TestingAuthenticationToken("rui", "", "ROLE_USER"))
                        .orElseThrow()
                        .grants())
                .as("known, and allowed nothing")
                .isEmpty();
    }

    @Test
    void whoIsNotSignedInIsNobody() {
        assertThat(caller(null)).isEmpty();
        assertThat(caller(new AnonymousAuthenticationToken(
                        "key", "anonymous", AuthorityUtils.createAuthorityList("BRUME_ADMIN"))))
                .isEmpty();
        Authentication unproven = new TestingAuthenticationToken("ines", "", "BRUME_ADMIN");
        unproven.setAuthenticated(false);
        assertThat(caller(unproven)).isEmpty();
    }
}
