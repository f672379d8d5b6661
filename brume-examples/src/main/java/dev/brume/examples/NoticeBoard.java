package dev.brume.examples;

import com.sun.net.httpserver.HttpServer;
import dev.brume.Brume;
import dev.brume.FailureKinds;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.RunResult;
import dev.brume.Work;
import dev.brume.memory.MemoryStore;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Work that is a request: tried again while the board is away, given up at once if it says that there is no such page. */
public final class NoticeBoard {
    private NoticeBoard() {}

    /** Posts one notice to a board of its own, which is away at first. */
    public static void main(String[] args) throws Exception {
        HttpServer board = board();
        String url = "http://127.0.0.1:" + board.getAddress().getPort() + "/notices?run=${run}";
        try (Brume brume =
                Brume.on(new MemoryStore()).takesRequests().instance("office").build()) {
            Job job = Job.named("tide-notice")
                    .work(new Work.Request(
                            "POST",
                            url,
                            Map.of(),
                            Optional.of("{\"at\": \"${plannedLocal}\", \"tide\": ${payload}}"),
                            Set.of()))
                    .ifFailed(IfFailed.attempts(5, Duration.ofMillis(200))
                            .factor(2)
                            .cap(Duration.ofSeconds(5))
                            .giveUpOn(FailureKinds.statuses(404)))
                    .build();
            brume.define(job);
            brume.start();
            RunResult result =
                    brume.orders("office", "").runNow(job.name(), "3.1").await(Duration.ofMinutes(1));
            int attempts =
                    brume.history().run(result.run()).orElseThrow().attempts().size();
            System.out.println(result.outcome() + " after " + attempts + " attempts: "
                    + result.value().orElse(""));
        } finally {
            board.stop(0);
        }
    }

    private static HttpServer board() throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.createContext("/notices", exchange -> {
            boolean first = "1".equals(exchange.getRequestHeaders().getFirst("Brume-Attempt"));
            byte[] answer = (first ? "come back later" : "pinned up").getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(first ? 503 : 200, answer.length);
            exchange.getResponseBody().write(answer);
            exchange.close();
        });
        server.start();
        return server;
    }
}
