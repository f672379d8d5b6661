package dev.brume.benchmarks;

import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.http.BrumeHttp;
import dev.brume.jdbc.JdbcStore;
import dev.brume.server.HttpServer;
import java.io.InputStream;
import java.net.HttpURLConnection;
import java.net.URI;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.TimeUnit;

/** How long the pages of the console take to their first byte, and how much comes over the wire for a first visit. */
final class Pages {
    private static final String KEY = "benchmark";
    private static final int VISITS = Scale.number("visits", 41, 2);
    /** Longer than a board of a day is fresh, so that each visit has it worked out anew. */
    private static final long APART_MILLIS = Scale.number("apart", 5_100, 1);

    private Pages() {}

    static void measure(JdbcStore store, JobName job, long run) throws Exception {
        try (Brume brume = Brume.on(store).instance("office").withoutLog().build();
                HttpServer server =
                        HttpServer.start(BrumeHttp.of(brume).key(KEY).build(), "127.0.0.1", 0, Optional.empty())) {
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
                    "/limits")) {
                visit(server.address(), page);
            }
            long wire = 0;
            for (String file : List.of(
                    "/",
                    "/assets/console.css",
                    "/assets/htmx.min.js",
                    "/assets/console.js",
                    "/assets/board.js",
                    "/assets/mark.svg")) {
                wire += ask(server.address().resolve(file)).bytes;
            }
            System.out.printf(Locale.ROOT, "a first visit to the board: %d kB%n", wire / 1000);
        }
    }

    private record Asked(double millis, long bytes) {}

    private static void visit(URI server, String page) throws Exception {
        ask(server.resolve(page));
        List<Double> millis = new ArrayList<>();
        long bytes = 0;
        for (int i = 0; i < VISITS; i++) {
            if (page.startsWith("/?") || page.equals("/")) {
                TimeUnit.MILLISECONDS.sleep(APART_MILLIS);
            }
            Asked asked = ask(server.resolve(page));
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

    private static Asked ask(URI address) throws Exception {
        HttpURLConnection asking = (HttpURLConnection) address.toURL().openConnection();
        asking.setRequestProperty("Authorization", "Bearer " + KEY);
        asking.setRequestProperty("Accept", "text/html");
        asking.setRequestProperty("Accept-Encoding", "gzip");
        long began = System.nanoTime();
        if (asking.getResponseCode() != 200) {
            throw new IllegalStateException(address + ": " + asking.getResponseCode());
        }
        try (InputStream in = asking.getInputStream()) {
            in.read();
            double millis = (System.nanoTime() - began) / 1e6;
            return new Asked(millis, 1 + in.readAllBytes().length);
        }
    }
}
