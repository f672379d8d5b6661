package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.http.AllowedNames;
import dev.brume.http.BrumeHttp;
import dev.brume.server.HttpServer;
import dev.brume.server.Tls;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** How an instance is served over HTTP. */
final class HttpOptions {
    private static final Pattern PLACE = Pattern.compile("(\\[[0-9a-fA-F:]+\\]|[^:\\s]+):(\\d{1,5})");
    private static final Pattern ALLOWED = Pattern.compile("([^:\\s]+):(program|host|variable|file)=(.+)");

    @Option(
            names = "--http-key-store",
            paramLabel = "FILE",
            description =
                    "Encrypts connections with the certificate and key of this file, PKCS 12 or JKS; its password is read from"
                            + " the environment variable BRUME_HTTP_KEY_STORE_PASSWORD.")
    private @Nullable Path keyStore;

    @Option(
            names = "--http-proxy",
            paramLabel = "ADDRESS",
            description =
                    "Takes this proxy's word, in the header Forwarded, on where requests come from; may be given several times.")
    private List<String> proxies = List.of();

    @Option(
            names = "--http-allow",
            paramLabel = "NAMESPACE:KIND=NAME",
            description =
                    "Lets definitions of a namespace that come over HTTP name a program, host, variable or file, such as"
                            + " ferry:host=board.merrow.example; handlers alone otherwise. May be given several times.")
    private List<String> allowed = List.of();

    @Option(
            names = "--http-framed-by",
            paramLabel = "ORIGIN",
            description =
                    "Lets pages of this origin, such as https://ferry.merrow.example, show the form that asks when something"
                            + " shall happen; none may otherwise. May be given several times.")
    private List<String> framedBy = List.of();

    @Option(
            names = "--http-key",
            paramLabel = "FILE",
            description =
                    "Where the key of this start is written, for its owner alone; http-key beside the data unless given.")
    private @Nullable Path key;

    /** An address to listen at. */
    record Place(String host, int port) {
        static Place parse(String option, String text) {
            Matcher place = PLACE.matcher(text);
            if (!place.matches() || Integer.parseInt(place.group(2)) > 65_535) {
                throw new UsageException(option + " '" + text
                        + "' is not an address to listen at (expected HOST:PORT, such as 127.0.0.1:8480)");
            }
            return new Place(place.group(1).replaceAll("[\\[\\]]", ""), Integer.parseInt(place.group(2)));
        }

        boolean isLocal() {
            return host.equals("localhost") || host.equals("::1") || host.matches("127\\.\\d+\\.\\d+\\.\\d+");
        }
    }

    /** What is served, and the key of this start. */
    record Serving(HttpServer server, BrumeHttp http, HttpKey key) implements AutoCloseable {
        @Override
        public void close() {
            try {
                server.close();
            } finally {
                key.close();
            }
        }
    }

    /**
     * Begins to serve.
     *
     * @param beside where the key is written unless something else is said
     */
    Serving serve(Brume brume, Place place, Path beside) {
        boolean hasTokens = brume.history().tokens().stream()
                .anyMatch(token -> token.isGood(brume.history().now()));
        if (!place.isLocal() && !hasTokens) {
            throw new UsageException("--http " + place.host + ":" + place.port
                    + " is beyond this machine, and there is no token that would tell people apart; make one first:"
                    + " brume token add NAME --role operator (or serve 127.0.0.1)");
        }
        HttpKey own = HttpKey.write(key == null ? beside.resolve("http-key") : key);
        try {
            BrumeHttp.Builder http = BrumeHttp.of(brume).key(own.secret()).metrics(new MetricsPage(brume)::text);
            proxies.forEach(http::proxy);
            allowedNames().forEach(http::allow);
            framedBy.forEach(origin -> frame(http, origin));
            BrumeHttp built = http.build();
            return new Serving(HttpServer.start(built, place.host, place.port, tls()), built, own);
        } catch (IOException e) {
            own.close();
            throw new UsageException(
                    "--http " + place.host + ":" + place.port + " cannot be served: " + e.getMessage());
        } catch (RuntimeException e) {
            own.close();
            throw e;
        }
    }

    private static void frame(BrumeHttp.Builder http, String origin) {
        try {
            http.framedBy(origin);
        } catch (IllegalArgumentException e) {
            throw new UsageException("--http-framed-by " + e.getMessage());
        }
    }

    private Optional<Tls> tls() {
        if (keyStore == null) {
            return Optional.empty();
        }
        if (!Files.isReadable(keyStore)) {
            throw new UsageException("--http-key-store " + keyStore + " cannot be read");
        }
        String password = System.getenv("BRUME_HTTP_KEY_STORE_PASSWORD");
        if (password == null) {
            throw new UsageException(
                    "--http-key-store takes the password of the file from BRUME_HTTP_KEY_STORE_PASSWORD, which is not set");
        }
        return Optional.of(new Tls(keyStore, password));
    }

    private Map<String, AllowedNames> allowedNames() {
        Map<String, AllowedNames> names = new LinkedHashMap<>();
        for (String text : allowed) {
            Matcher parts = ALLOWED.matcher(text);
            if (!parts.matches() || !JobName.isName(parts.group(1))) {
                throw new UsageException("--http-allow '" + text
                        + "' is not NAMESPACE:KIND=NAME (KIND is program, host, variable or file)");
            }
            String name = parts.group(3);
            names.merge(
                    parts.group(1),
                    add(AllowedNames.NONE, parts.group(2), name),
                    (known, one) -> add(known, parts.group(2), name));
        }
        return names;
    }

    private static AllowedNames add(AllowedNames names, String kind, String name) {
        return switch (kind) {
            case "program" -> names.program(name);
            case "host" -> names.host(name);
            case "variable" -> names.variable(name);
            default -> names.file(name);
        };
    }
}
