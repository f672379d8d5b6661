package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.definitions.JsonText;
import dev.brume.tests.Stores;
import java.io.IOException;
import java.io.OutputStream;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.regex.Matcher;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Whatever is sent: an answer that is meant, nothing of how it is done here, and nothing of another tenant's. */
class HostileTest {
    private static final String SECRET = "kraken-of-the-other-tenant";
    private static final List<String> METHODS =
            List.of("GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS", "TRACE");
    private static final List<Object> VALUES = List.of(
            "",
            " ",
            "null",
            -1,
            0,
            Long.MAX_VALUE,
            1e308,
            true,
            List.of(),
            Map.of(),
            "\u0000",
            "\uD800",
            "🌫",
            "../../etc/passwd",
            "'; drop table brume_job; --",
            "<script>alert(1)</script>",
            "${env:PATH}",
            "x".repeat(5_000),
            "9".repeat(400),
            "2026-13-45T99:99:99Z",
            "+1000000000-01-01T00:00:00Z",
            "P1Y",
            "99999999999d",
            "%",
            "*",
            "harbour/",
            "/",
            "a/b/c");
    private static final List<String> MEMBERS = List.of(
            "because",
            "payload",
            "key",
            "at",
            "in",
            "from",
            "until",
            "job",
            "tag",
            "namespace",
            "everything",
            "calendar",
            "zone",
            "name",
            "role",
            "namespaces",
            "for",
            "after",
            "before",
            "definitions",
            "instances",
            "lanes",
            "takes",
            "dryRun");

    private final SplittableRandom chance;

    HostileTest() {
        chance = new SplittableRandom(20_261_130);
    }

    private <T> T any(List<T> list) {
        return list.get(chance.nextInt(list.size()));
    }

    private String path(List<String> known) {
        String path = any(known);
        while (path.contains("{")) {
            String value = chance.nextInt(3) == 0
                    ? escaped(String.valueOf(any(VALUES)))
                    : any(List.of("harbour", "ferry", "tide-tables", "dock-check", "1", "quay-1"));
            path = path.replaceFirst("\\{[a-z]+}", Matcher.quoteReplacement(value));
        }
        StringBuilder query = new StringBuilder();
        for (int i = chance.nextInt(4); i > 0; i--) {
            query.append(query.length() == 0 ? '?' : '&')
                    .append(any(List.of(
                            "limit",
                            "cursor",
                            "fields",
                            "job",
                            "namespace",
                            "from",
                            "until",
                            "at",
                            "zone",
                            "expression",
                            "count",
                            "after",
                            "head",
                            "x")))
                    .append('=')
                    .append(escaped(String.valueOf(any(VALUES))));
        }
        return path + query;
    }

    private static String escaped(String text) {
        StringBuilder escaped = new StringBuilder();
        for (byte at : text.getBytes(StandardCharsets.UTF_8)) {
            escaped.append(String.format("%%%02X", at));
        }
        return escaped.toString();
    }

    private String body() {
        return switch (chance.nextInt(6)) {
            case 0 -> "";
            case 1 ->
                any(List.of(
                        "{",
                        "[[[[",
                        "{\"a\":",
                        "nul",
                        "\"\\ud800\"",
                        "{\"a\":1,\"a\":2}",
                        "\u0001",
                        "[".repeat(5_000)));
            case 2 ->
                "jobs:\n  "
                        + any(List.of(
                                "x",
                                "&a [*a]",
                                "? {}",
                                "- 1",
                                "x: {work: {program: [sh]}}",
                                "\t",
                                "x: !!java.lang.Runtime {}"));
            default -> {
                Map<String, Object> map = new LinkedHashMap<>();
                for (int i = chance.nextInt(4); i >= 0; i--) {
                    map.put(any(MEMBERS), any(VALUES));
                }
                yield JsonText.line(map);
            }
        };
    }

    @ParameterizedTest
    @EnumSource(Stores.class)
    void neverAnErrorOfOursNorATraceOfItNorAnothersData(Stores stores) throws IOException {
        try (Stores.Shared shared = stores.shared();
                Web web = Web.over(
                        Brume.on(shared.store()).withoutLog().instance("quay-1").build())) {
            web.brume.define(Job.named("ferry/" + SECRET)
                    .handler("tide-tables")
                    .payload(SECRET)
                    .tag("nightly")
                    .build());
            web.brume.orders(SECRET, SECRET).runNow(JobName.parse("ferry/" + SECRET), SECRET);
            List<String> paths = new ArrayList<>();
            ((Map<?, ?>) web.get("/openapi.json").map().get("paths"))
                    .keySet().stream()
                            .map(String::valueOf)
                            .filter(path -> !path.equals("/events"))
                            .forEach(paths::add);
            String token = web.as(Grant.within(List.of("harbour"), Role.ADMIN)).token();
            for (int i = 0; i < 1_500; i++) {
                String method = any(METHODS);
                String path = path(paths);
                String body = body();
                String sent = method + " /api/v1" + path
                        + " HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\nAuthorization: Bearer "
                        + token + "\r\nContent-Type: "
                        + any(List.of("application/json", "application/yaml", "text/plain", ""))
                        + "\r\nContent-Length: " + body.getBytes(StandardCharsets.UTF_8).length + "\r\n\r\n" + body;
                String said = say(web, sent);
                assertThat(said).as(sent).matches("(?s)HTTP/1.1 ([234]\\d\\d|503) .*");
                assertThat(said).as(sent).doesNotContain("at dev.brume", "at java.", "Exception", "jetty", SECRET);
            }
        }
    }

    private static String say(Web web, String sent) throws IOException {
        try (Socket socket = new Socket("127.0.0.1", web.uri("/").getPort())) {
            socket.setSoTimeout(60_000);
            OutputStream out = socket.getOutputStream();
            out.write(sent.getBytes(StandardCharsets.UTF_8));
            out.flush();
            return new String(socket.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        }
    }

    @Test
    void aThousandConnectionsThatAreOpenedAndLeftKeepNobodyOut() throws IOException {
        try (Web web = Web.open().as(Role.VIEWER)) {
            List<Socket> left = new ArrayList<>();
            try {
                for (int i = 0; i < 1_000; i++) {
                    Socket socket = new Socket("127.0.0.1", web.uri("/").getPort());
                    left.add(socket);
                    if (i % 2 == 0) {
                        socket.getOutputStream()
                                .write("POST /api/v1/pauses HTTP/1.1\r\nHost: localhost\r\nContent-Le"
                                        .getBytes(StandardCharsets.US_ASCII));
                    }
                }
                web.get("/jobs").is(200);
            } finally {
                for (Socket socket : left) {
                    socket.close();
                }
            }
        }
    }
}
