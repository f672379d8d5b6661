package dev.brume;

import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import dev.brume.internal.order.AccessOrders;
import java.time.Duration;
import java.util.Objects;
import java.util.Optional;

/**
 * Lets in whoever shows the secret of a token, or of a sign-in, and nobody else. Both are in the store, so they hold, and end, on every instance.
 * Safe for use by many threads.
 *
 * @see Brume#access
 * @see Orders#addToken
 * @since 0.1.0
 */
public final class Access {
    private final AccessOrders orders;

    Access(AccessOrders orders) {
        this.orders = orders;
    }

    /**
     * {@return the token of a secret, if it lets somebody in now}
     *
     * @param secret as it was told when the token was made
     */
    public Optional<TokenRow> token(String secret) {
        return orders.token(Objects.requireNonNull(secret, "secret"));
    }

    /**
     * Signs somebody in.
     *
     * @param who they are
     * @param grant what they may do, and where
     * @param token whose holder they are: the sign-in ends with it; empty if they were let in without one
     * @param length how long it lasts
     * @return the secret that they show from then on
     */
    public String signIn(String who, Grant grant, Optional<String> token, Duration length) {
        return orders.signIn(who, grant, token, length);
    }

    /** {@return who signed in and was given a secret, if that still holds} */
    public Optional<SignInRow> signedIn(String secret) {
        return orders.signedIn(Objects.requireNonNull(secret, "secret"));
    }

    /**
     * Ends a sign-in.
     *
     * @return whether there was one
     */
    public boolean signOut(String secret) {
        return orders.signOut(secret);
    }
}
