package dev.brume.http;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.http.internal.access.ApplicationDoor;
import dev.brume.http.internal.access.Door;
import dev.brume.http.internal.access.OwnDoor;
import dev.brume.http.internal.live.Hub;
import dev.brume.http.internal.resource.Everything;
import jakarta.servlet.http.HttpServlet;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Brume over HTTP: resources below {@code /api/v1}, events, metrics and health, as a servlet that an application mounts at a path of its own, such as
 * {@code /brume/*}. Nobody is let in unless they hold a token, have signed in, or the application says who they are.
 *
 * <p>Safe for use by many threads. It is closed before the instance that it serves.
 *
 * @since 0.1.0
 */
public final class BrumeHttp implements AutoCloseable {
    private static final Pattern ORIGIN = Pattern.compile("(?i)https?://(\\[[0-9a-f:]+\\]|[a-z0-9.-]+)(:\\d{1,5})?");

    private final Hub hub;
    private final BrumeServlet servlet;
    private final Optional<OwnDoor> ownDoor;

    private BrumeHttp(Builder builder) {
        ownDoor = builder.callers == null
                ? Optional.of(new OwnDoor(builder.brume, Optional.ofNullable(builder.key), System::nanoTime))
                : Optional.empty();
        Door door = ownDoor.<Door>map(own -> own)
                .orElseGet(() -> new ApplicationDoor(Objects.requireNonNull(builder.callers)));
        hub = new Hub(builder.brume, builder.limits, System::nanoTime);
        servlet = new BrumeServlet(
                builder.brume,
                builder.limits,
                door,
                ownDoor,
                Set.copyOf(builder.proxies),
                Collections.unmodifiableSet(builder.framedBy),
                Everything.routes(builder.brume, hub, Map.copyOf(builder.allowed)),
                hub,
                Optional.ofNullable(builder.metrics));
    }

    /** Begins to set up how an instance is served. It need not have been started, and then runs nothing. */
    public static Builder of(Brume brume) {
        return new Builder(Objects.requireNonNull(brume, "brume"));
    }

    /** {@return the servlet, to be mounted at a path that ends in {@code /*}; it answers asynchronously} */
    public HttpServlet servlet() {
        return servlet;
    }

    /**
     * Lets whoever first opens {@code PATH/open/SECRET} sign in.
     *
     * @param secret that nobody can guess, of letters, digits, {@code -} and {@code _}
     * @param who they are from then on
     * @param grant what they may do, and where
     * @throws IllegalStateException if the application says who people are
     */
    public void link(String secret, String who, Grant grant) {
        ownDoor.orElseThrow(() -> new IllegalStateException("the application says who people are"))
                .link(secret, who, grant);
    }

    /** {@return all that can be asked for, as OpenAPI 3.1 has it} */
    public String description() {
        return servlet.description();
    }

    /** Ends all streams. */
    @Override
    public void close() {
        hub.close();
    }

    /** Sets up how an instance is served. Confined to one thread. */
    public static final class Builder {
        private final Brume brume;
        private final Set<String> proxies = new LinkedHashSet<>();
        private final Set<String> framedBy = new LinkedHashSet<>();
        private final Map<String, AllowedNames> allowed = new LinkedHashMap<>();
        private HttpLimits limits = HttpLimits.USUAL;
        private @Nullable Callers callers;
        private @Nullable MetricsText metrics;
        private @Nullable String key;

        private Builder(Brume brume) {
            this.brume = brume;
        }

        /** Lets the application say who people are and what they may do; tokens and sign-ins of Brume's own let nobody in then. */
        public Builder callers(Callers application) {
            callers = Objects.requireNonNull(application, "callers");
            return this;
        }

        /**
         * Lets whoever has a key look at everything, beside holders of tokens.
         *
         * @param secret that nobody can guess, new at each start
         */
        public Builder key(String secret) {
            key = Objects.requireNonNull(secret, "key");
            return this;
        }

        /** Bounds requests. */
        public Builder limits(HttpLimits bounds) {
            limits = Objects.requireNonNull(bounds, "limits");
            return this;
        }

        /** Answers {@code /metrics}; without it there is nothing at that path. */
        public Builder metrics(MetricsText text) {
            metrics = Objects.requireNonNull(text, "metrics");
            return this;
        }

        /**
         * Takes the word of a proxy, in the header {@code Forwarded}, on where requests come from (RFC 7239).
         *
         * @param address as its connections have it
         */
        public Builder proxy(String address) {
            proxies.add(address);
            return this;
        }

        /**
         * Lets pages of an origin show the form that asks when something shall happen within themselves; no other page of Brume is ever shown so.
         *
         * @param origin such as {@code https://ferry.merrow.example}; may be stated for several
         * @throws IllegalArgumentException if it is no origin (RFC 6454)
         */
        public Builder framedBy(String origin) {
            if (!ORIGIN.matcher(origin).matches()) {
                throw new IllegalArgumentException("'" + origin
                        + "' is not an origin (expected https://HOST or https://HOST:PORT, without a path)");
            }
            framedBy.add(origin.toLowerCase(Locale.ROOT));
            return this;
        }

        /** States what definitions of a namespace that come over HTTP may name beside handlers. */
        public Builder allow(String namespace, AllowedNames names) {
            allowed.put(namespace, names);
            return this;
        }

        /** {@return what serves the instance} */
        public BrumeHttp build() {
            return new BrumeHttp(this);
        }
    }
}
