package dev.brume.cli.desk;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.StoreException;
import dev.brume.definitions.JsonText;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import java.util.zip.GZIPInputStream;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLException;
import org.jspecify.annotations.Nullable;

/**
 * A server that is asked over HTTP.
 *
 * <p>A question whose answer was lost is asked again, and so is an order: it goes under a key of its own, and is carried out once.
 */
public final class Server {
    private static final Duration CONNECTING = Duration.ofSeconds(5);
    private static final Duration ANSWERING = Duration.ofSeconds(90);
    private static final int TRIES = 3;
    private static final long LONGEST_PAUSE_SECONDS = 5;

    private final URI base;
    private final Optional<String> token;
    private final HttpClient client;

    /**
     * Creates the way to a server; nothing is sent yet.
     *
     * @param base its address, with the path of the servlet if it has one
     * @param token lets in; none where the server lets anybody in
     * @param trusted whose certificates are trusted; those that Java trusts if empty
     */
    public Server(URI base, Optional<String> token, Optional<SSLContext> trusted) {
        this.base = base;
        this.token = token;
        HttpClient.Builder builder = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .connectTimeout(CONNECTING)
                .followRedirects(HttpClient.Redirect.NEVER);
        trusted.ifPresent(builder::sslContext);
        this.client = builder.build();
    }

    /** {@return the server as people know it} */
    public String name() {
        return "the server " + base;
    }

    /** An answer that has a content, and what headers say of it. */
    record Reply(Object content, HttpResponse<?> response) {
        Optional<String> header(String name) {
            return response.headers().firstValue(name);
        }

        Seen seen() {
            return Seen.of(content);
        }

        List<Seen> list() {
            return Seen.listOf(content);
        }
    }

    /** Asks. */
    Reply get(Address address) {
        return reply(send(request(address).GET()));
    }

    /** Asks for a text. */
    String text(Address address) {
        try (InputStream in = content(open(address))) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw away("ended the connection: " + e.getMessage(), e);
        }
    }

    /** Orders; a lost answer is asked for again, and the order is carried out once. */
    Reply order(String method, Address address, Map<String, ?> body) {
        HttpRequest.Builder request = request(address)
                .header("Content-Type", "application/json")
                .method(method, BodyPublishers.ofString(JsonText.line(body)));
        return reply(send(
                method.equals("POST")
                        ? request.header("Idempotency-Key", UUID.randomUUID().toString())
                        : request));
    }

    /** Sends a document. */
    Reply document(String method, Address address, Object document, Map<String, String> headers) {
        HttpRequest.Builder request = request(address)
                .header("Content-Type", "application/json")
                .method(method, BodyPublishers.ofString(JsonText.line(document)));
        headers.forEach(request::header);
        return reply(send(request));
    }

    /** Opens what may be long; the caller reads it to its end. */
    HttpResponse<InputStream> open(Address address) {
        HttpResponse<InputStream> response = send(request(address).GET());
        if (response.statusCode() != 200) {
            reply(response);
        }
        return response;
    }

    /** An address below that of the server, with what is asked of it. */
    static final class Address {
        private final StringBuilder path = new StringBuilder("/api/v1");
        private final Map<String, String> query = new LinkedHashMap<>();

        private Address() {}

        /** {@return an address of some steps; each may have any characters} */
        static Address of(String... steps) {
            Address address = new Address();
            for (String step : steps) {
                address.path.append('/').append(encoded(step));
            }
            return address;
        }

        Address with(String name, @Nullable Object value) {
            if (value != null) {
                query.put(name, value.toString());
            }
            return this;
        }

        Address with(String name, Optional<?> value) {
            value.ifPresent(some -> query.put(name, some.toString()));
            return this;
        }

        private static String encoded(String text) {
            return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
        }

        @Override
        public String toString() {
            List<String> pairs = new ArrayList<>();
            query.forEach((name, value) -> pairs.add(name + "=" + encoded(value)));
            return path + (pairs.isEmpty() ? "" : "?" + String.join("&", pairs));
        }
    }

    private HttpRequest.Builder request(Address address) {
        HttpRequest.Builder request = HttpRequest.newBuilder(
                        URI.create(base.toString().replaceFirst("/+$", "") + address))
                .timeout(ANSWERING)
                .header("Accept", "application/json")
                .header("Accept-Encoding", "gzip");
        token.ifPresent(secret -> request.header("Authorization", "Bearer " + secret));
        return request;
    }

    private HttpResponse<InputStream> send(HttpRequest.Builder asked) {
        HttpRequest request = asked.build();
        for (int attempt = 1; ; attempt++) {
            try {
                HttpResponse<InputStream> response = client.send(request, BodyHandlers.ofInputStream());
                if (response.statusCode() != 503 || attempt == TRIES) {
                    return response;
                }
                response.body().close();
                pause(response.headers().firstValue("Retry-After").orElse("1"));
            } catch (ConnectException | HttpConnectTimeoutException e) {
                throw away("cannot be reached" + (e.getMessage() == null ? "" : ": " + e.getMessage()), e);
            } catch (HttpTimeoutException e) {
                throw away("has not answered within " + ANSWERING.toSeconds() + " s", e);
            } catch (SSLException e) {
                throw away("is not trusted: " + e.getMessage() + " (--trust FILE names its certificate)", e);
            } catch (IOException e) {
                if (!isSafe(request)) {
                    throw away(
                            "ended the connection: " + e.getMessage()
                                    + "; whether the order was carried out is not known, so look before giving it again",
                            e);
                }
                if (attempt == TRIES) {
                    throw away("ended the connection: " + e.getMessage(), e);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw away("was not waited for", e);
            }
        }
    }

    /** What may be sent again: what changes nothing, says how something is to be, or is carried out once for its key. */
    private static boolean isSafe(HttpRequest request) {
        boolean saysWhatIsToBe = request.method().equals("PUT")
                && request.headers().firstValue("If-Match").isEmpty();
        return request.method().equals("GET")
                || saysWhatIsToBe
                || request.headers().firstValue("Idempotency-Key").isPresent();
    }

    private static void pause(String seconds) throws InterruptedException {
        TimeUnit.SECONDS.sleep(
                seconds.matches("\\d{1,3}") ? Math.min(Long.parseLong(seconds), LONGEST_PAUSE_SECONDS) : 1);
    }

    private StoreException away(String why, Exception cause) {
        return new StoreException(StoreException.Trouble.UNREACHABLE, name() + " " + why, cause);
    }

    private Reply reply(HttpResponse<InputStream> response) {
        int status = response.statusCode();
        try (InputStream in = content(response)) {
            byte[] bytes = in.readAllBytes();
            if (status / 100 == 2) {
                return new Reply(bytes.length == 0 ? Map.of() : JSON.std.anyFrom(bytes), response);
            }
            if (!response.headers().firstValue("Content-Type").orElse("").startsWith("application/problem+json")) {
                throw away("answers " + status + " and says nothing that is understood (is it a Brume?)", null);
            }
            Seen problem = Seen.of(JSON.std.anyFrom(bytes));
            if (status == 503) {
                throw away("cannot do it now: " + problem.maybe("detail").orElse(""), null);
            }
            throw new Refused(status, problem);
        } catch (JsonProcessingException | Garbled e) {
            throw away("says something else than expected (is it a Brume of another version?): " + e.getMessage(), e);
        } catch (IOException e) {
            throw away("ended the connection: " + e.getMessage(), e);
        }
    }

    /** {@return what an answer says, unpacked} */
    static InputStream content(HttpResponse<InputStream> response) throws IOException {
        return response.headers()
                        .firstValue("Content-Encoding")
                        .filter("gzip"::equals)
                        .isPresent()
                ? new GZIPInputStream(response.body())
                : response.body();
    }
}
