package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.ChangeFilter;
import dev.brume.http.AllowedNames;
import dev.brume.memory.MemoryStore;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.zip.GZIPInputStream;
import org.junit.jupiter.api.Test;

/** What can be looked at, ordered and defined over HTTP, and how it is said. */
class ResourcesTest {
    private static final String DEFINITION = """
            when:
              - cron: "15 4 * * *"
                zone: Atlantic/Azores
            work:
              handler: buoys
            """;

    @Test
    void listsArePagedByLinksAndShowTheMembersThatAreAskedFor() {
        try (Web web = Web.open()) {
            Web.Said first = web.get("/jobs?limit=1&fields=job,schedule").is(200);
            assertThat(first.list())
                    .hasSize(1)
                    .first()
                    .isEqualTo(Map.of("job", "ferry/dock-check", "schedule", "At 04:15 every day, Azores time"));
            String next = first.header("Link").replaceAll("^<(.*)>; rel=\"next\"$", "$1");
            Web.Said second = web.send(web.request(next)).is(200);

            assertThat(second.body()).contains("harbour/tide-tables").doesNotContain("dock-check");
            assertThat(second.header("Link")).isEmpty();
            assertThat(web.get("/jobs?tag=nightly&namespace=harbour&text=tide").list())
                    .hasSize(1);
            assertThat(web.get("/jobs?tag=daily").list()).isEmpty();
        }
    }

    @Test
    void whatIsNotKnownIsRefusedWithASuggestion() {
        try (Web web = Web.open().as(Role.ADMIN)) {
            assertThat(web.get("/jobs?limti=1").is(400).map().get("detail").toString())
                    .contains("did you mean limit?");
            assertThat(web.get("/jobs?fields=jbo").is(400).body()).contains("\"suggestion\":\"job\"");
            assertThat(web.get("/one-offs?fields=kye").is(400).body()).contains("\"suggestion\":\"key\"");
            assertThat(web.get("/runs?outcome=SUCEEDED").is(400).body()).contains("\"suggestion\":\"SUCCEEDED\"");
            assertThat(web.get("/jbos").is(404).body()).contains("did you mean /api/v1/jobs?");
            assertThat(web.post("/jobs/harbour/tide-tables/runs", Map.of("paylod", 1))
                            .is(400)
                            .body())
                    .contains("\"pointer\":\"/paylod\"", "\"suggestion\":\"payload\"");
            Web.Said method = web.send("DELETE", "/jobs", Map.of()).is(405);
            assertThat(method.header("Allow")).isEqualTo("GET, HEAD, OPTIONS");
            assertThat(method.header("Content-Type")).startsWith("application/problem+json");
        }
    }

    @Test
    void whatARunPrintsIsReadWhileItRuns() throws Exception {
        try (Web web = Web.open().as(Role.OPERATOR)) {
            CountDownLatch goOn = new CountDownLatch(1);
            web.brume.handler("gauge", run -> {
                run.print("low water at the quay, pin=1234");
                goOn.await();
                run.print("high water");
            });
            web.brume.define(Job.named(JobName.parse("harbour/gauge"))
                    .handler("gauge")
                    .mask("pin")
                    .build());
            String run = web.post("/jobs/harbour/gauge/runs", Map.of())
                    .is(201)
                    .map()
                    .get("run")
                    .toString();
            Web.Said meanwhile = web.get("/runs/" + run + "/output");
            while (meanwhile.status() != 200) {
                meanwhile = web.get("/runs/" + run + "/output");
            }
            assertThat(meanwhile.body()).startsWith("low water at the quay").doesNotContain("1234", "high water");
            assertThat(web.get("/runs/" + run).is(200).map()).containsEntry("state", "RUNNING");

            goOn.countDown();
            web.send(web.request("/api/v1/runs/" + run)
                            .header("Prefer", "wait=30")
                            .GET())
                    .is(200);
            assertThat(web.get("/runs/" + run + "/output").is(200).body())
                    .startsWith("low water at the quay")
                    .endsWith("high water\n");
        }
    }

    @Test
    void aDefinitionIsRefusedWithThePlaceOfEachErrorAndPutInForceWithATag() {
        try (Web web = Web.open().as(Role.AUTHOR)) {
            String wrong = DEFINITION.replace("15 4", "61 4").replace("handler", "handlr");
            Web.Said refused =
                    web.send("PUT", "/jobs/harbour/buoys/definition", wrong).is(400);
            assertThat(refused.body())
                    .contains("\"pointer\":\"/when/0/cron\",\"line\":2,\"column\":11", "did you mean handler?");

            Web.Said made = web.send("PUT", "/jobs/harbour/buoys/definition", DEFINITION)
                    .is(201);
            assertThat(made.map()).containsEntry("kind", "NEW").containsEntry("version", 1);
            Web.Said read = web.get("/jobs/harbour/buoys/definition").is(200);
            assertThat(read.header("ETag")).isEqualTo(made.header("ETag"));
            web.send("PUT", "/jobs/harbour/buoys/definition", DEFINITION).is(428);
            String changed = DEFINITION.replace("15 4", "16 4");
            Web.Said second = web.send(
                            "PUT",
                            "/jobs/harbour/buoys/definition?because=later",
                            changed,
                            "If-Match",
                            made.header("ETag"))
                    .is(200);
            assertThat(second.map()).containsEntry("kind", "CHANGED").containsEntry("version", 2);

            Web.Said late = web.send(
                            "PUT", "/jobs/harbour/buoys/definition", DEFINITION, "If-Match", made.header("ETag"))
                    .is(412);
            assertThat(late.body()).contains("was of version 1 when you looked, and is of version 2 now");
            assertThat(web.get("/jobs/harbour/buoys/versions/1").is(200).body()).contains("15 4 * * *");
            assertThat(web.brume
                            .history()
                            .changes(ChangeFilter.newest(1))
                            .get(0)
                            .change())
                    .satisfies(change -> {
                        assertThat(change.because()).isEqualTo("later");
                        assertThat(change.host()).isEqualTo("127.0.0.1");
                    });
            web.send("DELETE", "/jobs/harbour/buoys", Map.of("because", "sold"), "If-Match", made.header("ETag"))
                    .is(412);
            web.send("DELETE", "/jobs/harbour/buoys", Map.of("because", "sold"), "If-Match", second.header("ETag"))
                    .is(204);
            web.get("/jobs/harbour/buoys").is(404);
        }
    }

    @Test
    void aDefinitionOverHttpIsNoShell() {
        AllowedNames allowed = AllowedNames.NONE
                .program("/bin/tide")
                .host("board.merrow.example")
                .host("board0.merrow.example")
                .variable("DUES_KEY");
        String program = DEFINITION.replace("handler: buoys", "program: [%s]");
        String request = DEFINITION.replace("handler: buoys", "http: {url: '%s'}");
        try (Web web = Web.open(http -> http.allow("harbour", allowed)).as(Role.AUTHOR)) {
            String at = "/jobs/harbour/buoys/definition";
            assertThat(web.send("PUT", at, program.formatted("sh, -c, ls"))
                            .is(422)
                            .body())
                    .contains("the program 'sh' is not on the list of programs", "/work/program/0");
            web.send("PUT", at, program.formatted("/bin/tide, high")).is(201);
            assertThat(web.send("PUT", at, request.formatted("http://169.254.169.254/"), "If-Match", "*")
                            .is(422)
                            .body())
                    .contains("the host '169.254.169.254' is not on the list of hosts");
            assertThat(web.send(
                                    "PUT",
                                    at,
                                    request.formatted("https://board.merrow.example/${file:/etc/passwd}"),
                                    "If-Match",
                                    "*")
                            .is(422)
                            .body())
                    .contains("the file /etc/passwd is not on the list of files");
            web.send("PUT", at, request.formatted("https://board.merrow.example/${env:DUES_KEY}"), "If-Match", "*")
                    .is(200);
            assertThat(web.send(
                                    "PUT",
                                    at,
                                    request.formatted("HTTPS://board${env:DUES_KEY}.merrow.example/"),
                                    "If-Match",
                                    "*")
                            .is(422)
                            .body())
                    .contains("is not on the list of hosts");
            assertThat(web.send("PUT", at, request.formatted("https://${env:DUES_KEY}/"), "If-Match", "*")
                            .is(422)
                            .body())
                    .contains("the host 'https://${env:DUES_KEY}/'");
            assertThat(web.send("PUT", "/jobs/ferry/buoys/definition", program.formatted("/bin/tide"))
                            .is(422)
                            .body())
                    .contains("which is empty");
            assertThat(web.send("PUT", "/definitions", "calendars: {feasts: {file: /etc/passwd}}")
                            .is(400)
                            .body())
                    .contains("cannot be read from here");
        }
    }

    @Test
    void workThatAFileDefinesMayStayAsItIs() {
        try (Web web = Web.open().as(Role.AUTHOR)) {
            web.brume.define(Job.named("harbour/gauge").program("/bin/gauge").build());
            String same = "work:\n  program: [/bin/gauge]\npriority: 3\n";
            String at = "/jobs/harbour/gauge/definition";

            assertThat(web.send("PUT", at, same, "If-Match", "*").is(409).body())
                    .contains("takeOver=true");
            web.send("PUT", at + "?takeOver=true", same, "If-Match", "*").is(200);
            web.send("PUT", at, same.replace("gauge]", "gauge, -f]"), "If-Match", "*")
                    .is(422);
        }
    }

    @Test
    void aDocumentOfManyIsComparedAndPutInForce() {
        String document = "namespace: ferry\nsource: ferry.yaml\njobs:\n  night-boat:\n    work: {handler: boats}\n"
                + "  day-boat:\n    work: {handler: boats}\n";
        try (Web web = Web.open().as(Grant.within(List.of("ferry"), Role.AUTHOR))) {
            assertThat(web.send("PUT", "/definitions?dryRun=true", document)
                            .is(200)
                            .body())
                    .contains("\"kind\":\"NEW\"");
            web.get("/jobs/ferry/night-boat").is(404);
            web.send("PUT", "/definitions", document).is(200);
            web.get("/jobs/ferry/night-boat").is(200);
            web.send("PUT", "/definitions?dropGone=true", document.replaceFirst("  day-boat(?s:.*)", ""))
                    .is(200);
            web.get("/jobs/ferry/day-boat").is(404);
            web.send("PUT", "/definitions", document.replace("namespace: ferry", "namespace: harbour"))
                    .is(404);
            web.send("PUT", "/definitions", "namespace: ferry\nlimits: {/cranes: 2}\n")
                    .is(422);
        }
    }

    @Test
    void aRunIsOrderedOnceForItsKeyAndWaitedFor() {
        try (Web web = Web.open().as(Role.OPERATOR)) {
            String at = "/jobs/harbour/tide-tables/runs";
            Web.Said run = web.post(
                            at,
                            Map.of("payload", Map.of("quay", 4), "because", "gauge repaired — çà"),
                            "Prefer",
                            "wait=30",
                            "Idempotency-Key",
                            "k1")
                    .is(201);
            assertThat(run.map()).containsEntry("outcome", "SUCCEEDED").containsEntry("result", "printed {\"quay\":4}");
            assertThat(run.header("Preference-Applied")).isEqualTo("wait=30");
            String place = run.header("Location");
            assertThat(web.post(at, Map.of("payload", Map.of("quay", 4), "because", "again"), "Idempotency-Key", "k1")
                            .is(201)
                            .header("Location"))
                    .isEqualTo(place);
            assertThat(web.post(at, Map.of("payload", "other"), "Idempotency-Key", "k1")
                            .is(422)
                            .body())
                    .contains("order key 'k1' stands for another order already");
            assertThat(web.send(web.request(place)).is(200).map()).containsEntry("origin", "BY_HAND");
            Web.Said rerun = web.post(
                            place.substring("/api/v1".length()) + "/reruns",
                            Map.of("because", "x"),
                            "Prefer",
                            "wait=30")
                    .is(201);
            assertThat(rerun.map()).containsEntry("origin", "RERUN").containsEntry("outcome", "SUCCEEDED");
            assertThat(web.get("/runs?job=harbour/tide-tables&limit=1").header("Link"))
                    .contains("cursor=");
            assertThat(web.get("/changes?kind=RUN_ORDERED").body()).contains("gauge repaired — çà");
        }
    }

    @Test
    void whoeverWaitsForARunThatNobodyCarriesOutIsToldHowItStands() {
        try (Web web = Web.over(Brume.on(new MemoryStore())
                        .withoutLog()
                        .instance("console")
                        .build())
                .as(Role.OPERATOR)) {
            Web.Said said = web.post("/jobs/harbour/tide-tables/runs", Map.of("because", "x"), "Prefer", "wait=1")
                    .is(201);

            assertThat(said.map()).containsEntry("state", "PLANNED").containsEntry("outcome", null);
        }
    }

    @Test
    void ordersOfEveryKindAreTaken() {
        try (Web web = Web.open().as(Role.OPERATOR)) {
            String job = "/jobs/harbour/tide-tables";
            assertThat(web.post(job + "/skips", Map.of()).is(200).body()).contains("\"skipped\":{\"instant\"");
            assertThat(web.post("/pauses", Map.of("job", "harbour/tide-tables", "until", "2099-01-01T00:00:00Z"))
                            .is(200)
                            .map())
                    .containsEntry("ordered", true)
                    .containsEntry("jobs", 1);
            assertThat(web.get("/pauses").list()).hasSize(1);
            assertThat(web.get("/jobs?state=paused").list()).hasSize(1);
            assertThat(web.get("/jobs?sort=next").is(200).list())
                    .hasSameSizeAs(web.get("/jobs").list());
            assertThat(web.get("/jobs?sort=next&after=gone").is(400).body())
                    .contains("there is no job gone to go on behind; begin anew");
            web.post("/resumptions", Map.of("job", "harbour/tide-tables")).is(200);
            assertThat(web.post("/pauses", Map.of("job", "harbour/tide-tables", "tag", "x"))
                            .is(400)
                            .body())
                    .contains("expected one of job, tag, namespace and everything");

            Map<String, Object> bridge = Map.of("key", "a/b c", "at", "2099-05-14T06:00:00Z");
            Web.Said added = web.post(job + "/one-offs", bridge).is(201);
            assertThat(web.post(job + "/one-offs", bridge).is(200).map()).containsEntry("answer", "ALREADY_WAITS");
            String one = added.header("Location");
            assertThat(web.send(web.request(one)).is(200).map()).containsEntry("key", "a/b c");
            web.send("PATCH", one.substring(7), Map.of("at", "2099-05-14T07:00:00Z"))
                    .is(200);
            assertThat(web.get("/one-offs?prefix=a/").list()).hasSize(1);
            web.send("DELETE", one.substring(7), Map.of()).is(200);
            web.send("DELETE", one.substring(7), Map.of()).is(404);

            Map<String, Object> missed = Map.of(
                    "from", web.brume.history().now().minusSeconds(86_400 * 2).toString(), "dryRun", true);
            assertThat(web.post(job + "/backfills", missed).is(200).body()).contains("\"missing\":[{");
        }
    }

    @Test
    void whatIsWorkedOutIsTheSameAsElsewhere() {
        try (Web web = Web.open()) {
            assertThat(web.get("/jobs/harbour/tide-tables/why").is(200).map()).containsEntry("code", "NOTHING_DUE");
            assertThat(web.get("/jobs/harbour/tide-tables/why?at=2099-01-01T00:00:00Z")
                            .is(400)
                            .body())
                    .contains("is still to come");
            assertThat(web.get("/jobs/harbour/tide-tables/occurrences?limit=2")
                            .is(200)
                            .list())
                    .hasSize(2);
            assertThat(web.get("/tally").is(200).map()).containsEntry("unexplained", 0);
            assertThat(web.get("/figures").is(200).map()).containsKey("jobs");
            assertThat(web.get("/findings").is(200).map()).containsEntry("jobs", 2);
            assertThat(web.get("/instances").is(200).body()).contains("\"quay-1\"");
            assertThat(web.get("/seals/head").is(200).map()).containsEntry("number", 0);
            assertThat(web.get("/previews?expression=15+4+*+*+*&count=2&zone=Europe/Lisbon")
                            .is(200)
                            .list())
                    .hasSize(2);
            assertThat(web.get("/explanations?expression=15+4+*+*+FRI").is(200).body())
                    .contains("At 04:15 on Fridays");
            assertThat(web.get("/previews?expression=nonsense").is(400).body())
                    .contains("\"parameter\":\"expression\"");
            assertThat(web.post("/checks", "jobs: {x: {work: {handlr: y}}}")
                            .is(200)
                            .map())
                    .containsEntry("isGood", false);
            assertThat(web.post("/checks", "jobs: {x: {when: [{cron: '0 0 29 2 *', zone: UTC}], work: {handler: y}}}")
                            .is(200)
                            .body())
                    .contains("\"isGood\":true", "\"severity\":\"warning\"");
            String jobs = "jobs: {x: {work: {handler: %s}}}";
            assertThat(web.post("/differences", Map.of("before", jobs.formatted("a"), "after", jobs.formatted("b")))
                            .is(200)
                            .body())
                    .contains("\"kind\":\"CHANGED\"");
            assertThat(web.post("/rehearsals", Map.of("for", "3d")).is(200).map())
                    .containsKey("busiest");
        }
    }

    @Test
    void whatSomebodyHasIsNotSaidAgainAndMuchIsPacked() throws IOException, InterruptedException {
        try (Web web = Web.open()) {
            Web.Said first = web.get("/jobs").is(200);
            Web.Said again = web.send(web.request("/api/v1/jobs").header("If-None-Match", first.header("ETag")));
            assertThat(again.status()).isEqualTo(304);
            assertThat(again.body()).isEmpty();
            Web.Said head = web.send(web.request("/api/v1/jobs").method("HEAD", HttpRequest.BodyPublishers.noBody()));
            assertThat(head.is(200).header("Content-Length"))
                    .isEqualTo(String.valueOf(first.body().getBytes(StandardCharsets.UTF_8).length));
            var packed = HttpClient.newHttpClient()
                    .send(
                            web.request("/api/v1/openapi.json")
                                    .header("Accept-Encoding", "gzip")
                                    .build(),
                            BodyHandlers.ofByteArray());
            assertThat(packed.headers().firstValue("Content-Encoding")).contains("gzip");
            try (GZIPInputStream plain = new GZIPInputStream(new ByteArrayInputStream(packed.body()))) {
                assertThat(new String(plain.readAllBytes(), StandardCharsets.UTF_8))
                        .isEqualTo(web.get("/openapi.json").body());
            }
        }
    }

    @Test
    void theRecordIsWrittenOutAndGoneOnWith() {
        try (Web web = Web.open().as(Role.OPERATOR)) {
            web.post("/jobs/harbour/tide-tables/runs", Map.of(), "Prefer", "wait=30")
                    .is(201);

            assertThat(web.get("/exports/ledger").is(200).body().lines()).hasSize(1);
            assertThat(web.get("/exports/ledger?format=csv").is(200).body()).startsWith("run,job,planned");
            assertThat(web.get("/exports/changes?after=changes:2").is(200).body())
                    .doesNotContain("\"line\":\"1\"");
            assertThat(web.get("/exports/changes?after=ledger:2").is(400).body())
                    .contains("is the cursor of an export of ledger");
        }
    }
}
