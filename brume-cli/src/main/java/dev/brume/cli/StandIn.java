package dev.brume.cli;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Locale;
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
    private final Consumer<String> seen;
    private final AtomicInteger count = new AtomicInteger();

    private StandIn(HttpServer server, List<Integer> statuses, Optional<Duration> retryAfter, Consumer<String> seen) {
        this.server = server;
        this.statuses = List.copyOf(statuses);
        this.retryAfter = retryAfter;
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
     * @param seen is told of each request in a line
     */
    static StandIn open(int port, List<Integer> statuses, Optional<Duration> retryAfter, Consumer<String> seen) {
        try {
            InetSocketAddress here = new InetSocketAddress(InetAddress.getLoopbackAddress(), port);
            return new StandIn(HttpServer.create(here, /* backlog= */ 0), statuses, retryAfter, seen);
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
            seen.accept(number + "  " + exchange.getRequestMethod() + " " + exchange.getRequestURI() + "  "
                    + facts(exchange) + "  " + ShowCommand.firstLine(new String(body, StandardCharsets.UTF_8)) + "  -> "
                    + status);
            if (status >= 300) {
                retryAfter.ifPresent(
                        wait -> exchange.getResponseHeaders().set("Retry-After", Long.toString(wait.toSeconds())));
            }
            byte[] text = ("{\"answer\":" + number + "}\n").getBytes(StandardCharsets.UTF_8);
            boolean bare = status == 204
                    || status == 304
                    || exchange.getRequestMethod().equals("HEAD");
            exchange.sendResponseHeaders(status, bare ? -1 : text.length);
            if (!bare) {
                exchange.getResponseBody().write(text);
            }
        }
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
