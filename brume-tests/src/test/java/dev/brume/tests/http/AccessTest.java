package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Allowance;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Role;
import dev.brume.Work;
import dev.brume.http.Caller;
import dev.brume.http.HttpLimits;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.net.Socket;
import java.net.http.HttpRequest;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** Who is let in over HTTP, from where, and what they may do. */
class AccessTest {

    /** Says what no client library would. */
    private static String raw(Web web, String text) throws IOException {
        try (Socket socket = new Socket("127.0.0.1", web.uri("/").getPort())) {
            socket.setSoTimeout(20_000);
            OutputStream out = socket.getOutputStream();
            out.write(text.replace("\n", "\r\n").getBytes(StandardCharsets.UTF_8));
            out.flush();
            return new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8))
                    .lines()
                    .collect(Collectors.joining("\n"));
        }
    }

    private static String get(String path, String... headers) {
        return "GET " + path + " HTTP/1.1\nConnection: close\n" + String.join("\n", headers) + "\n\n";
    }

    @Test
    void withoutATokenOnlyTheKeyOfThisStartLetsIn() throws IOException {
        try (Web web = Web.open()) {
            web.with("").get("/jobs").is(401);
            assertThat(web.with("wrong").get("/jobs").is(401).header("WWW-Authenticate"))
                    .contains("invalid_token");
            web.with(Web.KEY).get("/jobs").is(200);
            web.post("/jobs/harbour/tide-tables/runs", Map.of()).is(403);
            assertThat(web.with("").send(web.request("/health/live")).is(200).body())
                    .contains("\"well\":true");
            assertThat(web.send(web.request("/health/ready")).is(200).body()).doesNotContain("tide");
            web.send(web.request("/nothing")).is(401);
        }
    }

    /** A page from elsewhere can make its own name lead to this machine, and then asks under that name. */
    @Test
    void withoutATokenTheHostMustBeThisMachines() throws IOException {
        try (Web web = Web.open()) {
            String key = "Authorization: Bearer " + Web.KEY;
            assertThat(raw(web, get("/api/v1/jobs", "Host: evil.example", key)))
                    .contains("403 Forbidden", "only requests for localhost or 127.0.0.1");
            assertThat(raw(web, get("/sign-in", "Host: evil.example"))).contains("403 Forbidden");
            assertThat(raw(web, get("/api/v1/jobs", "Host: localhost:1", key))).contains("200 OK");
            web.as(Role.VIEWER);
            assertThat(raw(
                            web,
                            get("/api/v1/jobs", "Host: quay.merrow.example", "Authorization: Bearer " + web.token())))
                    .contains("200 OK");
        }
    }

    @Test
    void aRoleHoldsInItsNamespacesAndNothingOfOthersIsSeen() {
        try (Web web = Web.open().as(Grant.within(List.of("harbour"), Role.OPERATOR))) {
            assertThat(web.get("/jobs").body()).contains("tide-tables").doesNotContain("dock-check");
            assertThat(web.get("/jobs?namespace=ferry").is(200).list()).isEmpty();
            web.get("/jobs/ferry/dock-check").is(404);
            web.post("/jobs/harbour/tide-tables/runs", Map.of("because", "mine"))
                    .is(201);
            web.post("/jobs/ferry/dock-check/runs", Map.of()).is(404);
            long foreign = web.brume.orders("x", "").runNow(Web.DOCK).id();
            web.get("/runs/" + foreign).is(404);
            web.get("/runs/" + foreign + "/output").is(404);
            web.post("/runs/" + foreign + "/cancellations", Map.of()).is(404);
            assertThat(web.get("/runs").body()).contains("tide-tables").doesNotContain("dock-check");
            assertThat(web.get("/changes").body()).contains("mine").doesNotContain("ferry", "TOKEN");
            assertThat(web.get("/tally").body()).doesNotContain("dock-check");
            web.get("/instances").is(403);
            web.get("/exports/ledger").is(403);
            web.send("PUT", "/jobs/harbour/x/definition", "work: {handler: a}").is(403);
            web.post("/pauses", Map.of("namespace", "ferry")).is(404);
            assertThat(web.post("/pauses", Map.of("everything", true)).is(403).body())
                    .contains("takes the role operator everywhere");
        }
    }

    @Test
    void aTokenIsMadeShownOnceAndRevoked() {
        try (Web web = Web.open().as(Role.ADMIN)) {
            Web.Said made = web.post(
                            "/tokens",
                            Map.of(
                                    "name",
                                    "quay-bot",
                                    "role",
                                    "operator",
                                    "namespaces",
                                    List.of("harbour"),
                                    "for",
                                    "90d"))
                    .is(201);
            String secret = made.map().get("secret").toString();
            assertThat(web.get("/tokens").is(200).body()).contains("quay-bot").doesNotContain(secret);
            assertThat(web.post("/tokens", Map.of("name", "x", "role", "admn"))
                            .is(400)
                            .body())
                    .contains("did you mean admin?");
            String admin = web.token();
            web.with(secret).post("/jobs/harbour/tide-tables/runs", Map.of()).is(201);
            web.get("/tokens").is(403);

            web.with(admin)
                    .send("DELETE", "/tokens/quay-bot", Map.of("because", "sold"))
                    .is(204);
            web.with(secret);
            long until = System.nanoTime() + 20_000_000_000L;
            while (web.get("/jobs").status() != 401) {
                assertThat(System.nanoTime()).isLessThan(until);
            }
        }
    }

    @Test
    void whoSignsInOnAPageGetsACookieThatOnlyItsOwnPagesUse() {
        try (Web web = Web.open().as(Role.OPERATOR)) {
            String secret = web.token();
            web.with("");
            HttpRequest.Builder form = web.request("/sign-in")
                    .header("Content-Type", "application/x-www-form-urlencoded")
                    .POST(HttpRequest.BodyPublishers.ofString("token=" + secret));
            web.send(form.copy()).is(403);
            web.send(form.copy().header("Sec-Fetch-Site", "cross-site")).is(403);
            Web.Said in = web.send(form.copy().header("Sec-Fetch-Site", "same-origin"))
                    .is(303);
            assertThat(in.header("Set-Cookie"))
                    .contains("HttpOnly", "SameSite=Strict")
                    .doesNotContain("Secure");
            String cookie = in.header("Set-Cookie").replaceFirst(";.*", "");
            web.send(web.request("/api/v1/jobs").header("Cookie", cookie)).is(200);
            HttpRequest.Builder order = web.request("/api/v1/jobs/harbour/tide-tables/runs")
                    .header("Cookie", cookie)
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString("{}"));
            web.send(order.copy()).is(403);
            web.send(order.copy().header("Origin", "http://evil.example")).is(403);
            web.send(order.copy().header("Origin", web.server.address().toString()))
                    .is(201);
            web.send(web.request("/sign-out")
                            .header("Cookie", cookie)
                            .header("Sec-Fetch-Site", "same-origin")
                            .POST(HttpRequest.BodyPublishers.noBody()))
                    .is(303);
            web.send(web.request("/api/v1/jobs").header("Cookie", cookie)).is(401);
            assertThat(web.send(form.copy()
                                    .header("Sec-Fetch-Site", "same-origin")
                                    .POST(HttpRequest.BodyPublishers.ofString("token=%3Cscript%3E")))
                            .is(401)
                            .body())
                    .contains("lets nobody in")
                    .doesNotContain("<script>");
        }
    }

    @Test
    void aLinkSignsInOnce() {
        try (Web web = Web.open().with("")) {
            web.http.link("once", "ines", Grant.within(List.of("harbour"), Role.AUTHOR));
            web.send(web.request("/open/once").method("HEAD", HttpRequest.BodyPublishers.noBody()))
                    .is(401);
            Web.Said in = web.send(web.request("/open/once")).is(303);
            String cookie = in.header("Set-Cookie").replaceFirst(";.*", "");

            web.send(web.request("/open/once")).is(403);
            assertThat(web.send(web.request("/").header("Cookie", cookie))
                            .is(200)
                            .body())
                    .contains("ines, times in UTC")
                    .contains("author of harbour");
        }
    }

    @Test
    void wrongTokensWaitAndRightOnesDoNot() {
        try (Web web = Web.open().as(Role.VIEWER)) {
            String right = web.token();
            String said = "";
            for (int i = 0; i < 5; i++) {
                said = web.with("wrong" + i).get("/jobs").is(401).body();
            }
            assertThat(said).contains("answers to wrong tokens from your address wait 500 ms by now");
            assertThat(web.with("")
                            .send(web.request("/sign-in")
                                    .header("Content-Type", "application/x-www-form-urlencoded")
                                    .header("Sec-Fetch-Site", "same-origin")
                                    .POST(HttpRequest.BodyPublishers.ofString("token=wrong")))
                            .is(401)
                            .body())
                    .contains("wait 1000 ms by now");
            web.with(right).get("/jobs").is(200);
        }
    }

    @Test
    void everyAnswerSaysWhatABrowserMayDoWithIt() {
        try (Web web = Web.open()) {
            for (String path : List.of("/api/v1/jobs", "/api/v1/nothing", "/sign-in", "/health/live")) {
                Web.Said said = web.send(web.request(path));
                assertThat(said.header("Content-Security-Policy"))
                        .as(path)
                        .contains("default-src 'none'", "frame-ancestors 'none'")
                        .doesNotContain("unsafe");
                assertThat(said.header("X-Content-Type-Options")).isEqualTo("nosniff");
                assertThat(said.header("Referrer-Policy")).isEqualTo("no-referrer");
                assertThat(said.header("Server")).isEmpty();
            }
        }
    }

    @Test
    void secretsOfADefinitionAreForThoseWhoDefine() {
        try (Web web = Web.open()) {
            web.brume.define(Job.named("harbour/dues")
                    .work(new Work.Request(
                            "POST",
                            "https://board.merrow.example/",
                            Map.of("X-Api-Token", "s3cret"),
                            Optional.empty(),
                            Set.of()))
                    .mask("pin")
                    .payload("{\"pin\":\"1234\"}")
                    .build());
            assertThat(web.get("/jobs/harbour/dues").is(200).body())
                    .contains("***")
                    .doesNotContain("s3cret", "1234");
            assertThat(web.get("/jobs/harbour/dues/definition").is(200).body()).doesNotContain("s3cret", "1234");
            assertThat(web.as(Role.AUTHOR).get("/jobs/harbour/dues").is(200).body())
                    .contains("s3cret");
        }
    }

    @Test
    void secretsOfWhatHasNotRunAreForThoseWhoDefine() {
        try (Web web = Web.open()) {
            JobName dues = JobName.parse("harbour/dues");
            web.brume.define(
                    Job.named(dues).handler("nobody-has-it").mask("pin").build());
            long run = web.brume
                    .orders("ines", "")
                    .runNow(dues, "{\"pin\":\"1234\"}")
                    .id();
            web.brume
                    .oneOffs()
                    .add(OneOff.of(dues, "later")
                            .at(Instant.parse("2099-01-01T00:00:00Z"))
                            .payload("{\"pin\":\"1234\"}"));

            for (String path : List.of("/runs/" + run, "/runs", "/one-offs", "/jobs/harbour/dues/one-offs/later")) {
                assertThat(web.get(path).is(200).body())
                        .as(path)
                        .contains("pin", "***")
                        .doesNotContain("1234");
            }
            Map<String, Object> document = Map.of("after", "namespace: harbour\njobs: {dues: {work: {handler: x}}}");
            web.post("/differences", document).is(403);
            web.as(Role.AUTHOR).post("/differences", document).is(200);
            assertThat(web.get("/one-offs").is(200).body()).contains("1234");
        }
    }

    @Test
    void whoDefinesInOneNamespaceReachesNoOther() {
        try (Web web = Web.open().as(Grant.within(List.of("ferry"), Role.AUTHOR))) {
            String at = "/jobs/ferry/night-boat/definition";
            String follows = "work: {handler: boats}\nfollowUps: {success: [harbour/tide-tables]}\n";
            assertThat(web.send("PUT", at, follows).is(422).body())
                    .contains("is another namespace's job", "takes the role author everywhere, or an allowance");
            web.send("PUT", at, "work: {handler: boats}\nlimits: [/cranes]\n").is(422);
            web.send("PUT", "/definitions", "namespace: ferry\njobs: {boat: {work: {handler: x}, limits: [/cranes]}}")
                    .is(422);
            web.brume.orders("ines", "").allow("ferry", Allowance.OWN.followedBy(List.of("harbour/tide-tables")));
            web.send("PUT", at, follows).is(201);
        }
    }

    @Test
    void anApplicationSaysWhoPeopleAre() {
        try (Web web = Web.open(http -> http.callers(request -> Optional.ofNullable(request.getHeader("X-Person"))
                .map(name -> Caller.of(name, Grant.within(List.of("harbour"), Role.OPERATOR)))))) {
            web.with("").get("/jobs").is(401);
            assertThat(web.send(web.request("/api/v1/jobs").header("X-Person", "ines"))
                            .is(200)
                            .list())
                    .hasSize(1);
            web.with("any").send(web.request("/sign-in")).is(401);
            web.send(web.request("/api/v1/jobs/harbour/tide-tables/runs")
                            .header("X-Person", "ines")
                            .header("Content-Type", "application/json")
                            .POST(HttpRequest.BodyPublishers.ofString("{}")))
                    .is(201);
            assertThat(web.brume.history().job(JobName.parse("harbour/tide-tables")))
                    .isPresent();
        }
    }

    @Test
    void whatAProxySaysIsTakenOfStatedOnesAlone() throws IOException {
        try (Web web = Web.open(http -> http.proxy("127.0.0.1")).as(Role.OPERATOR)) {
            web.post(
                            "/jobs/harbour/tide-tables/runs",
                            Map.of(),
                            "Forwarded",
                            "for=192.0.2.1, for=203.0.113.9;proto=https")
                    .is(201);
            assertThat(web.get("/changes?kind=RUN_ORDERED").body())
                    .contains("203.0.113.9")
                    .doesNotContain("192.0.2.1");
        }
        try (Web web = Web.open().as(Role.OPERATOR)) {
            web.post("/jobs/harbour/tide-tables/runs", Map.of(), "Forwarded", "for=203.0.113.9")
                    .is(201);
            assertThat(web.get("/changes?kind=RUN_ORDERED").body())
                    .contains("127.0.0.1")
                    .doesNotContain("203.0.113.9");
        }
    }

    @Test
    void whatIsTooMuchIsRefusedWithItsBound() throws IOException {
        try (Web web =
                Web.open(http -> http.limits(HttpLimits.USUAL.requests(4))).as(Role.AUTHOR)) {
            String long1 = "x".repeat(1_100_000);
            assertThat(web.post("/jobs/harbour/tide-tables/runs", Map.of("payload", long1))
                            .is(413)
                            .body())
                    .contains("longer than 1000000 bytes");
            assertThat(web.get("/jobs?text=" + "x".repeat(4_100)).is(400).body())
                    .contains("at most 4000");
            Object deep = 1;
            for (int i = 0; i < 50; i++) {
                deep = List.of(deep);
            }
            web.post("/jobs/harbour/tide-tables/runs", Map.of("payload", deep)).is(400);
            assertThat(web.send("POST", "/jobs/harbour/tide-tables/runs", Map.of(), "X-Long", "y".repeat(15_990))
                            .status())
                    .isEqualTo(431);
            assertThat(raw(
                            web,
                            "POST /api/v1/pauses HTTP/1.1\nHost: localhost\nConnection: close\nAuthorization: Bearer "
                                    + web.token()
                                    + "\nContent-Type: application/json\nContent-Length: 10\n\n{\"a\":1,\"a\"}"))
                    .contains("400 Bad Request");
        }
    }
}
