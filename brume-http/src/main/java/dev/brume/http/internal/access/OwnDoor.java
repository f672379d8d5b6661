package dev.brume.http.internal.access;

import dev.brume.Access;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.history.TokenRow;
import dev.brume.http.Caller;
import dev.brume.http.internal.web.Problem;
import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.function.LongSupplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Lets in holders of tokens, people who have signed in, and whoever has the key of this start. What the store said is believed for less than half a
 * second. As long as there is no token, only this machine is let in, by a name that no page from elsewhere can say.
 */
public final class OwnDoor implements Door {
    /** The cookie of whoever has signed in. */
    public static final String COOKIE = "brume-sign-in";

    /** How long a sign-in lasts. */
    public static final Duration SIGNED_IN = Duration.ofHours(12);

    private static final Logger LOG = LoggerFactory.getLogger(OwnDoor.class);
    private static final long BELIEVED_NANOS = 400_000_000L;
    private static final int MOST_BELIEVED = 10_000;
    private static final int LONGEST_SECRET = 200;
    private static final int TOLD_EVERY = 10;

    private final Brume brume;
    private final Optional<String> key;
    private final LongSupplier nanos;
    private final Slowdown slowdown;
    private volatile @Nullable Tokens tokens;
    private final Map<String, Answer> believed = new ConcurrentHashMap<>();
    private final Map<String, Link> links = new ConcurrentHashMap<>();

    /** Whether there are tokens that let somebody in, and when that was so. */
    private record Tokens(boolean areThere, long at) {}

    private record Answer(Optional<Caller> caller, long at) {}

    private record Link(String who, Grant grant) {}

    /**
     * Creates the door.
     *
     * @param key of this start, which lets look at everything; empty if there is none
     * @param nanos a clock that only goes on
     */
    public OwnDoor(Brume brume, Optional<String> key, LongSupplier nanos) {
        this.brume = brume;
        this.key = key;
        this.nanos = nanos;
        this.slowdown = new Slowdown(nanos);
    }

    /** Lets whoever opens an address with a secret in it sign in once. */
    public void link(String secret, String who, Grant grant) {
        links.put(secret, new Link(who, grant));
    }

    @Override
    public Optional<Entry> enter(HttpServletRequest request, Sender from) {
        Optional<String> bearer = bearer(request);
        // Whoever holds a token is told apart by it, wherever they are.
        if (bearer.isEmpty() || isKey(bearer.get())) {
            checkPlace(from);
        }
        if (bearer.isPresent()) {
            String secret = bearer.get();
            return Optional.of(new Entry(
                    holder(secret).orElseThrow(() -> wrong(from)),
                    /* byBrowser= */ false,
                    () -> holder(secret).isPresent()));
        }
        return cookie(request)
                .flatMap(secret -> signedIn(secret)
                        .map(caller -> new Entry(
                                caller,
                                /* byBrowser= */ true,
                                () -> signedIn(secret).isPresent())));
    }

    /** Refuses requests from other machines, and for other names, as long as nothing tells people apart. */
    public void checkPlace(Sender from) {
        if ((!from.isLocal() || !from.isForLocalName()) && !hasTokens()) {
            throw new Problem(
                    Problem.Kind.NOT_ALLOWED,
                    from.isLocal()
                            ? "without tokens only requests for localhost or 127.0.0.1 are answered"
                            : "without tokens only requests from this machine are answered (brume token add makes one)");
        }
    }

    private boolean hasTokens() {
        long now = nanos.getAsLong();
        Tokens known = tokens;
        if (known == null || now - known.at >= BELIEVED_NANOS) {
            Instant clock = brume.history().now();
            known = new Tokens(brume.history().tokens().stream().anyMatch(token -> token.isGood(clock)), now);
            tokens = known;
        }
        return known.areThere;
    }

    private static Optional<String> bearer(HttpServletRequest request) {
        String header = request.getHeader("Authorization");
        if (header == null) {
            return Optional.empty();
        }
        if (!header.regionMatches(/* ignoreCase= */ true, 0, "Bearer ", 0, 7)) {
            throw new Problem(Problem.Kind.WHO_IS_IT, "Authorization: expected 'Bearer TOKEN'")
                    .with("WWW-Authenticate", "Bearer realm=\"brume\"");
        }
        return Optional.of(header.substring(7).strip());
    }

    /** {@return the secret of whoever has signed in, if the request has one} */
    public static Optional<String> cookie(HttpServletRequest request) {
        Cookie[] cookies = request.getCookies();
        if (cookies != null) {
            for (Cookie cookie : cookies) {
                if (cookie.getName().equals(COOKIE) && cookie.getValue().length() <= LONGEST_SECRET) {
                    return Optional.of(cookie.getValue());
                }
            }
        }
        return Optional.empty();
    }

    private Optional<Caller> holder(String secret) {
        if (isKey(secret)) {
            return Optional.of(Caller.of("http-key", Grant.everywhere(Role.VIEWER)));
        }
        if (secret.isEmpty() || secret.length() > LONGEST_SECRET) {
            return Optional.empty();
        }
        return believed("b" + secret, any -> access().token(secret).map(OwnDoor::caller));
    }

    private static Caller caller(TokenRow token) {
        return Caller.of(token.name(), token.grant());
    }

    private Optional<Caller> signedIn(String secret) {
        return believed("c" + secret, any -> access().signedIn(secret).map(row -> Caller.of(row.who(), row.grant())));
    }

    private Access access() {
        return brume.access();
    }

    /** In the same time, whatever the first difference. */
    private boolean isKey(String secret) {
        return key.filter(own -> MessageDigest.isEqual(
                        own.getBytes(StandardCharsets.UTF_8), secret.getBytes(StandardCharsets.UTF_8)))
                .isPresent();
    }

    /** Asks the store, unless it was asked just now. */
    private Optional<Caller> believed(String what, Function<String, Optional<Caller>> asking) {
        long now = nanos.getAsLong();
        Answer known = believed.get(what);
        if (known != null && now - known.at < BELIEVED_NANOS) {
            return known.caller;
        }
        Answer fresh = new Answer(asking.apply(what), now);
        if (believed.size() >= MOST_BELIEVED) {
            believed.values().removeIf(each -> now - each.at >= BELIEVED_NANOS);
        }
        if (believed.size() < MOST_BELIEVED) {
            believed.put(what, fresh);
        }
        return fresh.caller;
    }

    private WrongToken wrong(Sender from) {
        long wait = slowdown.wrong(from.address());
        int count = slowdown.count(from.address());
        if (count % TOLD_EVERY == 1) {
            LOG.warn("{} has shown {} that let nobody in", from.address(), count == 1 ? "a token" : count + " tokens");
        }
        return new WrongToken(
                "this token lets nobody in: it was never made, was revoked, or has ended"
                        + (wait == 0 ? "" : "; answers to wrong tokens from your address wait " + wait + " ms by now"),
                wait);
    }

    /**
     * Signs somebody in by a token.
     *
     * @return the secret for their cookie
     * @throws WrongToken if the token lets nobody in
     */
    public String signIn(String token, Sender from) {
        checkPlace(from);
        Caller caller = holder(token).orElseThrow(() -> wrong(from));
        return access().signIn(
                        caller.name(),
                        caller.grants().get(0),
                        isKey(token) ? Optional.empty() : Optional.of(caller.name()),
                        SIGNED_IN);
    }

    /** Signs somebody in by an address that works once; empty if it has worked, or never did. */
    public Optional<String> open(String secret, Sender from) {
        checkPlace(from);
        return Optional.ofNullable(links.remove(secret))
                .map(link -> access().signIn(link.who, link.grant, Optional.empty(), SIGNED_IN));
    }

    /** Ends a sign-in, at once here and within a second elsewhere. */
    public void signOut(String secret) {
        access().signOut(secret);
        believed.remove("c" + secret);
    }
}
