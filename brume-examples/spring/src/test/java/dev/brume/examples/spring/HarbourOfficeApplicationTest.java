package dev.brume.examples.spring;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dev.brume.JobName;
import dev.brume.jdbc.JdbcStore;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import javax.sql.DataSource;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.springframework.jdbc.core.JdbcTemplate;

/** The application as it is run: two instances on PostgreSQL, requests to both, a rolling deploy, an orderly stop. */
@Tag("long")
class HarbourOfficeApplicationTest {
    private static final Duration LONG = Duration.ofSeconds(60);
    private static final Duration A_DAY = Duration.ofDays(1);

    private static EmbeddedPostgres server;
    private static JdbcTemplate database;

    @BeforeAll
    static void startServer() throws Exception {
        server = EmbeddedPostgres.builder()
                .setServerConfig("fsync", "on")
                .setServerConfig("synchronous_commit", "on")
                .start();
        DataSource source = server.getPostgresDatabase();
        database = new JdbcTemplate(source);
    }

    @AfterAll
    static void stopServer() throws Exception {
        server.close();
    }

    private static Office start(String instance, String... more) throws Exception {
        return Office.start(server.getJdbcUrl("postgres", "postgres"), instance, more);
    }

    private static int count(String query) {
        return database.queryForObject("select count(*) from " + query, Integer.class);
    }

    private static void awaitFigure(Office office, String figure, int value) {
        await().atMost(LONG)
                .untilAsserted(() -> assertThat(office.get("/figures")).contains("\"" + figure + "\":" + value));
    }

    private static String berth(String ship, Duration arrives) {
        return "{\"ship\": \"" + ship + "\", \"arrives\": \"" + Instant.now().plus(arrives) + "\"}";
    }

    @Test
    void twoInstancesADeployAndAnOrderlyStop() throws Exception {
        try (Office first = start("quay-1");
                Office second = start("quay-2")) {
            workBelongsToBookings(first, second);
            signals(first, second);
            whoMayWhat(first);
            theNextVersionIsRolledOut(first, second);
        }
    }

    private static void workBelongsToBookings(Office first, Office second) throws Exception {
        assertThat(first.send("PUT", "/bookings/17", berth("Petrel", A_DAY.plusSeconds(1)))
                        .statusCode())
                .isEqualTo(204);
        assertThat(second.send("PUT", "/bookings/18", berth("Skua", A_DAY.plusSeconds(3600)))
                        .statusCode())
                .isEqualTo(204);
        assertThat(count("brume_one_off where made = 0 and one_off_key = 'booking-18'"))
                .isEqualTo(1);
        assertThat(first.send("DELETE", "/bookings/18", "").statusCode()).isEqualTo(204);
        assertThat(second.send("PUT", "/bookings/19", berth("", A_DAY)).statusCode())
                .isEqualTo(400);
        assertThat(count("brume_one_off where one_off_key in ('booking-18', 'booking-19')"))
                .as("cancelled, and rolled back")
                .isZero();

        assertThat(first.send("POST", "/bookings/17/certificate", "").body()).isEqualTo("{\"new\":true}");
        assertThat(second.send("POST", "/bookings/17/certificate", "").body()).isEqualTo("{\"new\":false}");
        awaitFigure(first, "certificates", 1);
        awaitFigure(second, "reminded", 1);
        assertThat(first.get("/figures")).contains("\"bookings\":1");
        assertThat(count("brume_ledger l join brume_job j on j.id = l.job_id"
                        + " where j.name in ('berth-reminder', 'mooring-certificate')"))
                .isEqualTo(2);
        assertThat(database.queryForObject(
                        "select result from brume_content where result like 'moored%'", String.class))
                .startsWith("moored: Petrel, since 20");
    }

    private static void signals(Office office, Office other) throws Exception {
        assertThat(office.get("/actuator/health/readiness")).contains("\"status\":\"UP\"");
        assertThat(office.get("/actuator/health/liveness")).contains("\"status\":\"UP\"");
        assertThat(office.get("/actuator/brume")).contains("\"instance\":\"quay-1\"", "\"instances\":2");
        assertThat(office.get("/actuator/brume/doctor")).contains("\"findings\":");
        assertThat(scraped(office)).contains("brume_instances 2.0", "brume_workers{lane=\"main\"}");
        await().atMost(LONG)
                .untilAsserted(() -> assertThat(scraped(office) + scraped(other))
                        .as("whichever of them ran it")
                        .contains("brume_attempts_begun_total{job=\"lamp-inspection\"}"));
    }

    private static void whoMayWhat(Office office) throws Exception {
        String jobs = "/brume/api/v1/jobs";
        String pauses = "/brume/api/v1/pauses";
        String lamps = "{\"job\":\"lamp-inspection\",\"until\":\"2099-01-01T00:00:00Z\"}";
        assertThat(office.get(jobs)).doesNotContain("lamp-inspection");
        assertThat(office.as("clerk", "GET", jobs, "").body()).contains("lamp-inspection");
        var form = office.as("clerk", "GET", "/brume/embed/when", "");
        assertThat(form.body()).contains("When shall this happen?");
        assertThat(form.headers().firstValue("Content-Security-Policy").orElse(""))
                .contains("frame-ancestors https://ferry.merrow.example;");
        assertThat(office.as("clerk", "POST", pauses, lamps).statusCode()).isEqualTo(403);
        assertThat(office.as("ines", "POST", pauses, lamps).statusCode()).isEqualTo(200);
        assertThat(office.as("ines", "GET", "/brume/api/v1/changes?kind=PAUSED", "")
                        .body())
                .contains("\"who\":\"ines\"");
        assertThat(office.as("ines", "POST", "/brume/api/v1/resumptions", "{\"job\":\"lamp-inspection\"}")
                        .statusCode())
                .isEqualTo(200);
    }

    private static String scraped(Office office) throws Exception {
        return office.send("GET", "/actuator/prometheus", "", "application/openmetrics-text")
                .body();
    }

    private static void theNextVersionIsRolledOut(Office first, Office second) throws Exception {
        try (Office next = start("quay-3", "--spring.profiles.active=next")) {
            next.get("/figures");
            await().atMost(LONG)
                    .until(() -> count("brume_ledger l join brume_job j on j.id = l.job_id"
                                    + " where j.name = 'fog-signal' and l.outcome = 'SUCCEEDED'")
                            > 1);
            assertThat(database.queryForList(
                            "select distinct l.instance from brume_ledger l join brume_job j on j.id = l.job_id"
                                    + " where j.name = 'fog-signal' and l.instance is not null",
                            String.class))
                    .as("those that have its handler")
                    .containsExactly("quay-3");

            first.send("PUT", "/bookings/20", berth("Tern", A_DAY.plusSeconds(3600)));
            first.send("POST", "/bookings/20/certificate", "");
            await().atMost(LONG)
                    .until(() -> count("brume_run r join brume_job j on j.id = r.job_id"
                                    + " where j.name = 'mooring-certificate' and r.state = 'RUNNING'")
                            == 1);
            assertThat(first.terminate()).isEqualTo(143);
            assertThat(second.terminate()).isEqualTo(143);
            awaitFigure(next, "certificates", 2);
            Map<String, Object> printed = database.queryForMap(
                    "select attempt, outcome from brume_ledger l join brume_job j on j.id = l.job_id"
                            + " where j.name = 'mooring-certificate' order by l.planned_at desc limit 1");
            assertThat(printed).as("it was let end").containsEntry("attempt", 1).containsEntry("outcome", "SUCCEEDED");
            assertOrderlyStop(first.log());

            try (Office old = start("quay-1")) {
                old.get("/figures");
                assertThat(JdbcStore.on(server.getPostgresDatabase())
                                .history()
                                .job(JobName.parse("harbour-dues"))
                                .orElseThrow()
                                .job()
                                .schedules())
                        .as("what the next version defined holds, though an old instance started again")
                        .asString()
                        .contains("0 2 * * *");
            }
            assertThat(next.terminate()).isEqualTo(143);
            Files.createDirectories(Path.of("target"));
            Files.write(Path.of("target/office.log"), first.log());
        }
        assertThat(count("brume_session where state <> 'ENDED' and instance <> 'quay-1'"))
                .as("all left")
                .isZero();
        assertThat(
                        count(
                                "(select job_id, planned_at from brume_ledger where slot = '' group by 1, 2 having count(*) > 1) twice"))
                .as("each occurrence ran once")
                .isZero();
    }

    /** First no more requests, then no more work. */
    private static void assertOrderlyStop(List<String> log) {
        int web = indexOf(log, "Graceful shutdown complete");
        int left = indexOf(log, ": LEFT: ");
        assertThat(web).as("%s", log).isPositive();
        assertThat(left).as("%s", log).isGreaterThan(web);
    }

    private static int indexOf(List<String> log, String text) {
        for (int i = 0; i < log.size(); i++) {
            if (log.get(i).contains(text)) {
                return i;
            }
        }
        return -1;
    }
}
