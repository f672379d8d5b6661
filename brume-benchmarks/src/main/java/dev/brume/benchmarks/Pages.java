package dev.brume.benchmarks;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.http.BrumeHttp;
import dev.brume.jdbc.JdbcStore;
import dev.brume.server.HttpServer;
import java.io.IOException;
import java.io.InputStream;
import java.net.HttpURLConnection;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.TimeUnit;

/** How long the pages of the console take to their first byte, and how much comes over the wire for a first visit. */
final class Pages {
    private static final int VISITS = Scale.number("visits", 41, 2);
    /** Longer than a board of a day is fresh, so that each visit has it worked out anew. */
    private static final long APART_MILLIS = Scale.number("apart", 5_100, 1);

    private Pages() {}

    static void measure(JdbcStore store, JobName job, long run) throws Exception {
        try (Brume brume = Brume.on(store).instance("office").withoutLog().build();
                HttpServer server = HttpServer.start(BrumeHttp.of(brume).build(), "127.0.0.1", 0, Optional.empty())) {
            String secret = brume.orders("benchmark", "")
                    .addToken("benchmark", Grant.everywhere(Role.ADMIN), Optional.of(Duration.ofHours(1)))
                    .secret();
            String ofJob = "/jobs/" + job.namespace() + "/" + job.name();
            for (String page : List.of(
                    "/",
                    "/?zoom=1h",
                    "/?zoom=1w",
                    "/?zoom=5w",
                    "/jobs",
                    "/jobs?text=77",
                    ofJob,
                    "/runs",
                    "/runs?outcome=FAILED",
                    "/runs/" + run,
                    "/coming",
                    "/coming?span=month",
                    "/instances",
                    "/changes",
                    "/tally",
                    "/doctor",
                    "/limits",
                    "/calendars",
                    "/define",
                    ofJob + "/define")) {
                visit(server.address(), page, secret);
            }
            drafts(server.address(), secret, job);
            long wire = 0;
            for (String file : List.of(
                    "/",
                    "/assets/console.css",
                    "/assets/htmx.min.js",
                    "/assets/console.js",
                    "/assets/board.js",
                    "/assets/mark.svg")) {
                wire += ask(get(server.address().resolve(file), secret)).bytes;
            }
            System.out.printf(Locale.ROOT, "a first visit to the board: %d kB%n", wire / 1000);
        }
    }

    private record Asked(double millis, long bytes) {}

    private static void visit(URI server, String page, String secret) throws Exception {
        ask(get(server.resolve(page), secret));
        List<Double> millis = new ArrayList<>();
        long bytes = 0;
        for (int i = 0; i < VISITS; i++) {
            if (page.startsWith("/?") || page.equals("/")) {
                TimeUnit.MILLISECONDS.sleep(APART_MILLIS);
            }
            Asked asked = ask(get(server.resolve(page), secret));
            millis.add(asked.millis);
            bytes = asked.bytes;
        }
        System.out.printf(
                Locale.ROOT,
                "page %-28s first byte: median %.0f ms, p95 %.0f ms; %.1f kB%n",
                page,
                Figures.median(millis),
                Figures.quantile(millis, 0.95),
                bytes / 1e3);
    }

    /** What the form asks as somebody types: the whole answer counts. */
    private static void drafts(URI server, String secret, JobName job) throws Exception {
        byte[] typed = ("{\"namespace\": \"" + job.namespace()
                        + "\", \"name\": \"new-one\", \"form\": {\"work\": \"handler\","
                        + " \"handler\": \"dues\", \"when\": {\"pattern\": \"times\", \"days\": \"weekdayOfMonth\", \"which\": \"last\","
                        + " \"weekday\": \"FRI\", \"times\": \"17:00\", \"zone\": \"Europe/Lisbon\"}}}")
                .getBytes(StandardCharsets.UTF_8);
        List<Double> millis = new ArrayList<>();
        for (int i = 0; i < VISITS + 5; i++) {
            HttpURLConnection asking = get(server.resolve("/api/v1/drafts"), secret);
            asking.setDoOutput(true);
            asking.setRequestProperty("Content-Type", "application/json");
            asking.setRequestProperty("Accept", "application/json");
            asking.getOutputStream().write(typed);
            Asked asked = ask(asking);
            if (i >= 5) {
                millis.add(asked.millis);
            }
        }
        System.out.printf(
                Locale.ROOT,
                "a draft as it is typed: median %.0f ms, p95 %.0f ms%n",
                Figures.median(millis),
                Figures.quantile(millis, 0.95));
    }

    private static HttpURLConnection get(URI address, String secret) throws IOException {
        HttpURLConnection asking = (HttpURLConnection) address.toURL().openConnection();
        asking.setRequestProperty("Authorization", "Bearer " + secret);
        asking.setRequestProperty("Accept", "text/html");
        asking.setRequestProperty("Accept-Encoding", "gzip");
        return asking;
    }

    private static Asked ask(HttpURLConnection asking) throws Exception {
        long began = System.nanoTime();
        if (asking.getResponseCode() != 200) {
            throw new IllegalStateException(asking.getURL() + ": " + asking.getResponseCode());
        }
        try (InputStream in = asking.getInputStream()) {
            in.read();
            double millis = (System.nanoTime() - began) / 1e6;
            return new Asked(millis, 1 + in.readAllBytes().length);
        }
    }
}
