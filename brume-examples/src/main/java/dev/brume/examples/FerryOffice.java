package dev.brume.examples;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NewToken;
import dev.brume.Role;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionsException;
import dev.brume.definitions.YamlText;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * An application with a page of its own, on which the people of the ferry company say when their notice is to be posted. The form that asks it is Brume's,
 * served elsewhere, within the page: one element with a token that lets look at the namespace for an hour.
 */
public final class FerryOffice implements AutoCloseable {
    private static final String NAMESPACE = "ferry";
    private static final JobName NOTICE = new JobName(NAMESPACE, "notice");

    private static final Duration LENGTH = Duration.ofHours(1);
    private static final Duration LEAST = Duration.ofMinutes(30);

    private final Brume brume;
    private final HttpServer pages;
    private @Nullable NewToken token;
    private volatile URI forms = URI.create("http://localhost");

    /**
     * Opens the office.
     *
     * @param brume that runs what is chosen; the handler {@code post-notice} is registered there
     * @throws IOException if nothing can be served on this machine
     */
    public FerryOffice(Brume brume) throws IOException {
        this.brume = brume;
        pages = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        pages.createContext("/", this::answer);
        pages.start();
    }

    /** {@return where its page is; Brume has to let it show the form: {@code BrumeHttp.of(brume).framedBy(...)}} */
    public URI address() {
        return URI.create("http://127.0.0.1:" + pages.getAddress().getPort());
    }

    /** States where Brume is served. */
    public void formsAt(URI address) {
        forms = address;
    }

    private void answer(HttpExchange exchange) throws IOException {
        try (exchange) {
            if (exchange.getRequestMethod().equals("POST")) {
                String form = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
                send(exchange, 200, page(chosen(fields(form).getOrDefault("when", ""))));
            } else {
                send(exchange, 200, page("Nothing is chosen yet."));
            }
        }
    }

    /** What comes is a schedule as definitions have it; whoever sends something else, or more, is told what is wrong with it. */
    private String chosen(String when) {
        try {
            Map<String, Object> sent = YamlText.read("schedule", "{\"when\": " + when + "\n}");
            Object chosen = sent.remove("when");
            if (chosen == null || !sent.isEmpty()) {
                return "That is no schedule: it says nothing, or more than when.";
            }
            Job job = DefinitionFile.parseJob(
                    "notice", NOTICE, YamlText.of(Map.of("when", chosen, "work", Map.of("handler", "post-notice"))));
            brume.define(job);
            return "The notice is posted: " + job.scheduleInWords() + ".";
        } catch (DefinitionsException e) {
            return "That is no schedule: " + e.problems().get(0).message();
        }
    }

    private static Map<String, String> fields(String form) {
        Map<String, String> fields = new HashMap<>();
        for (String pair : form.split("&")) {
            int equals = pair.indexOf('=');
            if (equals > 0) {
                fields.put(
                        pair.substring(0, equals),
                        URLDecoder.decode(pair.substring(equals + 1), StandardCharsets.UTF_8));
            }
        }
        return fields;
    }

    private String page(String said) {
        return """
                <!doctype html>
                <html lang="en"><head><meta charset="utf-8"><title>Ferry office</title>
                <script src="%1$s/assets/embed.js" defer></script></head>
                <body><main><h1>When shall the notice be posted?</h1>
                <form method="post"><brume-when name="when" src="%1$s" namespace="ferry" zone="Europe/Lisbon" token="%2$s"></brume-when>
                <p><button>Post it then</button></p></form>
                <p id="said">%3$s</p></main></body></html>
                """.formatted(forms, token().secret(), escaped(said));
    }

    /** One for whoever looks within half an hour, so that the store does not fill with them. */
    private synchronized NewToken token() {
        Instant now = brume.history().now();
        NewToken last = token;
        if (last == null || last.until().filter(now.plus(LEAST)::isBefore).isEmpty()) {
            last = brume.orders("ferry-office", "to show the form")
                    .addToken(
                            "ferry-page-" + now.getEpochSecond(),
                            Grant.within(List.of(NAMESPACE), Role.VIEWER),
                            Optional.of(LENGTH));
            token = last;
        }
        return last;
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;");
    }

    private static void send(HttpExchange exchange, int status, String page) throws IOException {
        byte[] bytes = page.getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", "text/html; charset=utf-8");
        exchange.getResponseHeaders().set("Cache-Control", "no-store");
        exchange.sendResponseHeaders(status, bytes.length);
        exchange.getResponseBody().write(bytes);
    }

    @Override
    public void close() {
        pages.stop(0);
    }
}
