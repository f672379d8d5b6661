package dev.brume.spi;

import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import java.time.Instant;
import java.util.Optional;

/**
 * The steps on tokens and on those who have signed in. Secrets are known by their digests alone: SHA-256, in hexadecimal.
 *
 * @since 0.1.0
 */
public interface AccessSteps {

    /** Locks a token by its name, good or not. */
    Optional<TokenRow> lockToken(String name);

    /**
     * Adds a token, in the place of one of its name that is locked, if there is one.
     *
     * @param digest of its secret
     * @return whether it was added; not if somebody else added one of that name meanwhile
     */
    boolean addToken(TokenRow token, String digest);

    /** Writes when a locked token was revoked. */
    void revokeToken(String name, Instant at);

    /** Adds a sign-in. */
    void signIn(SignInRow signIn, String digest);

    /** Ends a sign-in; returns whether there was one. */
    boolean signOut(String digest);

    /** Removes sign-ins that ended before an instant; returns how many. */
    int forgetSignIns(Instant endedBefore);
}
