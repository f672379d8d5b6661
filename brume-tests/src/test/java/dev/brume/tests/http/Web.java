package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.http.BrumeHttp;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.CronSchedule;
import dev.brume.server.HttpServer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;

/** An instance that is served over HTTP on this machine, and somebody who asks it. */
final class Web implements AutoCloseable {
    static final JobName TIDES = JobName.parse("harbour/tide-tables");
    static final JobName DOCK = JobName.parse("ferry/dock-check");
    static final String KEY = "the-key-of-this-start";

    final Brume brume;
    final BrumeHttp http;
    final HttpServer server;
    private final HttpClient client = HttpClient.newHttpClient();
    private String token = KEY;

    private Web(Brume brume, UnaryOperator<BrumeHttp.Builder> how) {
        this.brume = brume;
        brume.handler(
                "tide-tables", run -> run.result("printed " + run.payload().orElse("nothing")));
        for (JobName name : List.of(TIDES, DOCK)) {
            brume.define(Job.named(name)
                    .schedule(CronSchedule.parse("15 4 * * *", ZoneId.of("Atlantic/Azores")))
                    .handler("tide-tables")
                    .tag("nightly")
                    .build());
        }
        http = how.apply(BrumeHttp.of(brume).key(KEY)).build();
        try {
            server = HttpServer.start(http, "127.0.0.1", 0, Optional.empty());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** An instance in memory that has begun to run what is due. */
    static Web open() {
        return open(UnaryOperator.identity());
    }

    static Web open(UnaryOperator<BrumeHttp.Builder> how) {
        Brume brume = Brume.on(new MemoryStore())
                .withoutLog()
                .instance("quay-1")
                .poll(Duration.ofMillis(100))
                .build();
        Web web = new Web(brume, how);
        brume.start();
        return web;
    }

    static Web over(Brume brume) {
        return new Web(brume, UnaryOperator.identity());
    }

    /** That pages of an origin may show the form of. */
    static Web over(Brume brume, String origin) {
        return new Web(brume, http -> http.framedBy(origin));
    }

    /** Goes on as somebody who was just given a token. */
    Web as(Grant grant) {
        String name = "t" + Math.abs(System.nanoTime() % 1_000_000_000L);
        token = brume.orders("tester", "")
                .addToken(name, grant, Optional.empty())
                .secret();
        return this;
    }

    Web as(Role role) {
        return as(Grant.everywhere(role));
    }

    Web with(String secret) {
        token = secret;
        return this;
    }

    String token() {
        return token;
    }

    URI uri(String path) {
        return URI.create(server.address() + path);
    }

    /** What was answered. */
    record Said(int status, String body, HttpResponse<String> response) {
        Map<String, Object> map() {
            try {
                return JSON.std.mapFrom(body);
            } catch (IOException e) {
                throw new UncheckedIOException(body, e);
            }
        }

        List<Object> list() {
            try {
                return JSON.std.listFrom(body);
            } catch (IOException e) {
                throw new UncheckedIOException(body, e);
            }
        }

        String header(String name) {
            return response.headers().firstValue(name).orElse("");
        }

        Said is(int expected) {
            assertThat(status).as(body).isEqualTo(expected);
            return this;
        }
    }

    HttpRequest.Builder request(String path) {
        HttpRequest.Builder request = HttpRequest.newBuilder(uri(path)).timeout(Duration.ofSeconds(60));
        return token.isEmpty() ? request : request.header("Authorization", "Bearer " + token);
    }

    Said send(HttpRequest.Builder request) {
        try {
            HttpResponse<String> response = client.send(request.build(), BodyHandlers.ofString());
            return new Said(response.statusCode(), response.body(), response);
        } catch (IOException e) {
            throw new UncheckedIOException(request.build().toString(), e);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    Said get(String path) {
        return send(request("/api/v1" + path));
    }

    Said send(String method, String path, Object body, String... headers) {
        HttpRequest.Builder request = request("/api/v1" + path)
                .header("Content-Type", body instanceof String ? "application/yaml" : "application/json")
                .method(method, HttpRequest.BodyPublishers.ofString(body instanceof String text ? text : json(body)));
        if (headers.length > 0) {
            request.headers(headers);
        }
        return send(request);
    }

    Said post(String path, Object body, String... headers) {
        return send("POST", path, body, headers);
    }

    private static String json(Object value) {
        try {
            return JSON.std.asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void close() {
        server.close();
        brume.close();
    }
}
