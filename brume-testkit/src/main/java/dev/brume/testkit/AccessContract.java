package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What a store does with tokens and sign-ins. */
abstract class AccessContract extends RequestContract {
    private static final Grant OF_TWO = Grant.within(List.of("harbour", "ferry"), Role.OPERATOR);

    private TokenRow token(String name, Optional<Instant> until) {
        return new TokenRow(name, OF_TWO, past(60), "ines", until, Optional.empty());
    }

    private boolean add(TokenRow token, String digest) {
        return store.transact(tx -> {
            tx.access().lockToken(token.name());
            return tx.access().addToken(token, digest);
        });
    }

    private void revoke(String name) {
        store.transact(tx -> {
            assertThat(tx.access().lockToken(name)).isPresent();
            tx.access().revokeToken(name, past(1));
            return null;
        });
    }

    private void signIn(String digest, Optional<String> token, Instant begun, Instant until) {
        store.transact(tx -> {
            tx.access().signIn(new SignInRow("Inês 🌫", Grant.everywhere(Role.VIEWER), token, begun, until), digest);
            return null;
        });
    }

    private Instant later() {
        return now().plusSeconds(600);
    }

    @Test
    void aTokenLetsInWhoeverHasItsSecretUntilItIsRevoked() {
        TokenRow token = token("quay-bot", Optional.empty());
        assertThat(add(token, "digest-1")).isTrue();

        assertThat(store.history().token("digest-1")).contains(token);
        assertThat(store.history().token("digest-2")).isEmpty();
        revoke("quay-bot");

        assertThat(store.history().token("digest-1")).isEmpty();
        assertThat(store.history().tokens()).extracting(TokenRow::name).containsExactly("quay-bot");
        assertThat(store.history().tokens().get(0).revokedAt()).isPresent();
    }

    @Test
    void aTokenEndsByItselfAndAnotherTakesItsName() {
        add(token("quay-bot", Optional.of(past(1))), "digest-1");
        assertThat(store.history().token("digest-1")).isEmpty();

        TokenRow another = token("quay-bot", Optional.of(later()));
        assertThat(add(another, "digest-2")).isTrue();

        assertThat(store.history().token("digest-2")).contains(another);
        assertThat(store.history().tokens()).containsExactly(another);
    }

    @Test
    void aTokenOfATransactionThatRollsBackLetsNobodyIn() {
        assertThatThrownBy(() -> store.transact(tx -> {
                    tx.access().addToken(token("quay-bot", Optional.empty()), "digest-1");
                    throw new IllegalStateException("no");
                }))
                .isInstanceOf(IllegalStateException.class);

        assertThat(store.history().token("digest-1")).isEmpty();
        assertThat(store.history().tokens()).isEmpty();
    }

    @Test
    void aSignInHoldsAsLongAsTheTokenBehindIt() {
        add(token("quay-bot", Optional.empty()), "digest-1");
        signIn("cookie-1", Optional.of("quay-bot"), past(10), later());
        signIn("cookie-2", Optional.empty(), past(10), later());
        signIn("cookie-3", Optional.of("unknown"), past(10), later());

        assertThat(store.history().signIn("cookie-1"))
                .get()
                .extracting(SignInRow::who)
                .isEqualTo("Inês 🌫");
        assertThat(store.history().signIn("cookie-2")).isPresent();
        assertThat(store.history().signIn("cookie-3")).isEmpty();
        revoke("quay-bot");
        assertThat(store.history().signIn("cookie-1")).isEmpty();
        assertThat(store.history().signIn("cookie-2")).isPresent();
    }

    @Test
    void whoSignedInByATokenIsNotLetInByItsSuccessor() {
        signIn("cookie-1", Optional.of("quay-bot"), past(120), later());
        add(token("quay-bot", Optional.empty()), "digest-2");

        assertThat(store.history().signIn("cookie-1")).isEmpty();
    }

    @Test
    void aSignInEndsByOrderOrByItselfAndIsForgotten() {
        signIn("cookie-1", Optional.empty(), past(100), past(50));
        signIn("cookie-2", Optional.empty(), past(100), later());

        assertThat(store.history().signIn("cookie-1")).isEmpty();
        assertThat(store.<Boolean>transact(tx -> tx.access().signOut("cookie-2")))
                .isTrue();
        assertThat(store.<Boolean>transact(tx -> tx.access().signOut("cookie-2")))
                .isFalse();
        assertThat(store.history().signIn("cookie-2")).isEmpty();
        assertThat(store.<Integer>transact(tx -> tx.access().forgetSignIns(now())))
                .isEqualTo(1);
    }
}
