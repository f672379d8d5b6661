package dev.brume.cli;

import com.fasterxml.jackson.jr.ob.JSON;
import com.sun.net.httpserver.Headers;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dev.brume.notices.Signature;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/** Answers requests on this machine alone, as the other side of a job whose work is a request. */
final class StandIn implements AutoCloseable {
    private static final int LONGEST_BODY = 64 * 1024;

    private final HttpServer server;
    private final List<Integer> statuses;
    private final Optional<Duration> retryAfter;
    private final Optional<String> secret;
    private final Consumer<String> seen;
    private final AtomicInteger count = new AtomicInteger();

    private StandIn(
            HttpServer server,
            List<Integer> statuses,
            Optional<Duration> retryAfter,
            Optional<String> secret,
            Consumer<String> seen) {
        this.server = server;
        this.statuses = List.copyOf(statuses);
        this.retryAfter = retryAfter;
        this.secret = secret;
        this.seen = seen;
        server.createContext("/", this::answer);
        server.start();
    }

    /**
     * Begins to answer.
     *
     * @param port 0 for any free one
     * @param statuses to answer in turn, the last one from then on
     * @param retryAfter sent with answers from 300 on
     * @param secret that notices are signed with
     * @param seen is told of each request in a line
     */
    static StandIn open(
            int port,
            List<Integer> statuses,
            Optional<Duration> retryAfter,
            Optional<String> secret,
            Consumer<String> seen) {
        try {
            InetSocketAddress here = new InetSocketAddress(InetAddress.getLoopbackAddress(), port);
            return new StandIn(HttpServer.create(here, /* backlog= */ 0), statuses, retryAfter, secret, seen);
        } catch (IOException | IllegalArgumentException e) {
            throw new UsageException(
                    "cannot listen on port " + port + ": " + e.getMessage() + " (give another --port)");
        }
    }

    int port() {
        return server.getAddress().getPort();
    }

    @Override
    public void close() {
        server.stop(/* delay= */ 0);
    }

    private void answer(HttpExchange exchange) throws IOException {
        int number = count.incrementAndGet();
        try (exchange) {
            byte[] body = exchange.getRequestBody().readNBytes(LONGEST_BODY);
            int status = statuses.get(Math.min(number, statuses.size()) - 1);
            String text = new String(body, StandardCharsets.UTF_8);
            seen.accept(number + "  " + exchange.getRequestMethod() + " " + exchange.getRequestURI() + "  "
                    + (isNotice(exchange)
                            ? notices(text) + signature(exchange, text)
                            : facts(exchange) + "  " + ShowCommand.firstLine(text))
                    + "  -> " + status);
            if (status >= 300) {
                retryAfter.ifPresent(
                        wait -> exchange.getResponseHeaders().set("Retry-After", Long.toString(wait.toSeconds())));
            }
            byte[] answer = ("{\"answer\":" + number + "}\n").getBytes(StandardCharsets.UTF_8);
            boolean bare = status == 204
                    || status == 304
                    || exchange.getRequestMethod().equals("HEAD");
            exchange.sendResponseHeaders(status, bare ? -1 : answer.length);
            if (!bare) {
                exchange.getResponseBody().write(answer);
            }
        }
    }

    private static boolean isNotice(HttpExchange exchange) {
        String type = exchange.getRequestHeaders().getFirst("Content-Type");
        return type != null && type.startsWith("application/cloudevents");
    }

    /** What is told, without what programs alone want to know. */
    private static String notices(String body) {
        try {
            Object events = JSON.std.anyFrom(body);
            return (events instanceof List<?> list ? list : List.of(events))
                    .stream().map(event -> notice((Map<?, ?>) event)).collect(Collectors.joining(" | "));
        } catch (IOException | RuntimeException e) {
            return ShowCommand.firstLine(body);
        }
    }

    private static String notice(Map<?, ?> event) {
        Map<?, ?> data = (Map<?, ?>) Objects.requireNonNull(event.get("data"));
        return data.get("kind") + ": " + data.get("title");
    }

    private String signature(HttpExchange exchange, String body) {
        if (secret.isEmpty()) {
            return "";
        }
        Headers headers = exchange.getRequestHeaders();
        String given = headers.getFirst(Signature.HEADER);
        String id = headers.getFirst(Signature.ID);
        String time = headers.getFirst(Signature.TIME);
        boolean holds = given != null
                && id != null
                && time != null
                && MessageDigest.isEqual(
                        given.getBytes(StandardCharsets.UTF_8),
                        Signature.of(secret.get(), id, time, body).getBytes(StandardCharsets.UTF_8));
        return holds ? "  (signature holds)" : "  (SIGNATURE DOES NOT HOLD)";
    }

    private static String facts(HttpExchange exchange) {
        return exchange.getRequestHeaders().entrySet().stream()
                .filter(header -> header.getKey().toLowerCase(Locale.ROOT).startsWith("brume-"))
                .map(header -> header.getKey().toLowerCase(Locale.ROOT) + "="
                        + header.getValue().get(0))
                .sorted()
                .collect(Collectors.joining(" "));
    }
}
