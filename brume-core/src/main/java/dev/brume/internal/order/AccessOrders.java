package dev.brume.internal.order;

import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.NewToken;
import dev.brume.NotThereException;
import dev.brume.history.SignInRow;
import dev.brume.history.TokenRow;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.text.Digests;
import dev.brume.internal.text.Secrets;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;

/** Makes tokens and sign-ins, revokes and ends them. Of a secret the store has the digest alone. Safe for use by many threads. */
public final class AccessOrders {
    /** What secrets of tokens begin with, so that they are known where they were left lying. */
    private static final String TOKEN = "brume_";

    private static final Duration SHORTEST = Duration.ofMinutes(1);

    private final Instance instance;

    /** Creates the step. */
    public AccessOrders(Instance instance) {
        this.instance = instance;
    }

    /** Makes a token, if none of its name lets somebody in. */
    public NewToken add(String name, Grant grant, Optional<Duration> length, Orderer orderer) {
        if (!JobName.isName(name)) {
            throw new IllegalArgumentException("token '" + name + "' is not a name (expected " + JobName.RULE + ")");
        }
        length.ifPresent(given -> Durations.checked("for", given, SHORTEST, Durations.LONGEST));
        String secret = TOKEN + Secrets.random();
        return instance.transact(tx -> {
            Instant now = now(tx.now());
            tx.access().lockToken(name).filter(there -> there.isGood(now)).ifPresent(there -> {
                throw taken(name);
            });
            Optional<Instant> until = length.map(now::plus);
            TokenRow token = new TokenRow(name, grant, now, orderer.who(), until, Optional.empty());
            if (!tx.access().addToken(token, Digests.sha256(secret))) {
                throw taken(name);
            }
            tx.addChanges(List.of(orderer.change(
                    "TOKEN_ADDED",
                    Optional.empty(),
                    name + ", " + grant + until.map(end -> ", until " + end).orElse(""))));
            return new NewToken(name, grant, until, secret);
        });
    }

    private static Instant now(Instant clock) {
        return clock.truncatedTo(ChronoUnit.MICROS);
    }

    private static IllegalArgumentException taken(String name) {
        return new IllegalArgumentException(
                "there is a token '" + name + "' already; revoke it first, or give this one another name");
    }

    /** Revokes a token; returns whether it let somebody in until now. */
    public boolean revoke(String name, Orderer orderer) {
        return instance.transact(tx -> {
            TokenRow token = tx.access().lockToken(name).orElseThrow(() -> NotThereException.ofToken(name));
            if (!token.isGood(tx.now())) {
                return false;
            }
            tx.access().revokeToken(name, now(tx.now()));
            tx.addChanges(List.of(orderer.change("TOKEN_REVOKED", Optional.empty(), name + ", " + token.grant())));
            return true;
        });
    }

    /** {@return the token of a secret, if it lets somebody in} */
    public Optional<TokenRow> token(String secret) {
        return instance.store().history().token(Digests.sha256(secret));
    }

    /** Signs somebody in; returns the secret that they show from then on. */
    public String signIn(String who, Grant grant, Optional<String> token, Duration length) {
        String secret = Secrets.random();
        instance.transact(tx -> {
            Instant now = now(tx.now());
            tx.access().signIn(new SignInRow(who, grant, token, now, now.plus(length)), Digests.sha256(secret));
            return null;
        });
        return secret;
    }

    /** {@return who has signed in and was given a secret, if that still holds} */
    public Optional<SignInRow> signedIn(String secret) {
        return instance.store().history().signIn(Digests.sha256(secret));
    }

    /** Ends a sign-in; returns whether there was one. */
    public boolean signOut(String secret) {
        return instance.transact(tx -> tx.access().signOut(Digests.sha256(secret)));
    }
}
