package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.http.BrumeHttp;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.server.HttpServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.assertj.core.api.SoftAssertions;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The same commands, at the database and at a server before it: they say the same. */
@Tag("long")
class BothWaysTest {
    @TempDir
    private static Path folder;

    private static DemoWorld world;
    private static Office looked;

    /** A database that is served. */
    private record Office(Path data, EmbeddedDatabase database, Brume brume, BrumeHttp http, HttpServer server)
            implements AutoCloseable {
        static Office open(Path data) throws IOException {
            EmbeddedDatabase database = EmbeddedDatabase.open(data, EmbeddedDatabase.Role.HOST);
            Brume brume = Brume.on(JdbcStore.on(database.opened()))
                    .withoutLog()
                    .instance("desk")
                    .build();
            BrumeHttp http = BrumeHttp.of(brume).build();
            return new Office(data, database, brume, http, HttpServer.start(http, "127.0.0.1", 0, Optional.empty()));
        }

        Path token(String name, Grant grant) throws IOException {
            Path file = Files.createTempFile(
                    folder,
                    "token",
                    "",
                    PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            return Files.writeString(
                    file,
                    brume.orders("office", "")
                            .addToken(name, grant, Optional.empty())
                            .secret());
        }

        @Override
        public void close() {
            server.close();
            http.close();
            brume.close();
            database.close();
        }
    }

    /** What a command printed, and how it ended. */
    private record Said(int code, String out, String err) {
        /** Without what differs from one moment to the next. */
        Said timeless() {
            return new Said(code, timeless(out), timeless(err));
        }

        private static String timeless(String text) {
            return text.replaceAll(
                            "\\d{4}-\\d\\d-\\d\\d[T ]\\d\\d:\\d\\d:\\d\\d(\\.\\d+)?(Z|[+-]\\d\\d:\\d\\d)?", "TIME")
                    .replaceAll("\\b\\d\\d:\\d\\d:\\d\\d([+-]\\d\\d:\\d\\d)?", "TIME")
                    .replaceAll("\\b(\\d+(\\.\\d+)?(ms|s|m|h|d))+\\b", "AGE")
                    .replaceAll("\"(silenceSeconds|lineBefore)\" : \\d+", "$1")
                    .replaceAll("[ -]+", " ");
        }
    }

    private static Said brume(List<String> words, String... where) {
        List<String> all = new ArrayList<>(words);
        all.addAll(List.of(where));
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        int code = BrumeCommand.run(all.toArray(String[]::new), new PrintStream(out), new PrintStream(err));
        return new Said(code, out.toString(StandardCharsets.UTF_8), err.toString(StandardCharsets.UTF_8));
    }

    private static List<String> words(String command) {
        return Stream.of(command.split(" "))
                .map(word -> word.equals("FILE") ? world.definitions().toString() : word.replace('_', ' '))
                .toList();
    }

    private static String[] server(Office office, Path token) {
        return new String[] {"--server", office.server.address().toString(), "--token-file", token.toString()};
    }

    @BeforeAll
    static void liveThroughThePast() throws Exception {
        world = LivedWorld.in(folder.resolve("office"));
        looked = Office.open(copy("looked"));
        admin = looked.token("desk", Grant.everywhere(Role.ADMIN));
    }

    private static Path admin;

    private static Path copy(String name) throws IOException {
        Path copy = Files.createDirectory(folder.resolve(name));
        try (Stream<Path> files = Files.list(world.folder())) {
            for (Path file : files.filter(Files::isRegularFile).toList()) {
                Files.copy(file, copy.resolve(file.getFileName()));
            }
        }
        return copy;
    }

    @AfterAll
    static void close() {
        looked.close();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "jobs",
                "jobs --long",
                "jobs --format json",
                "jobs --count 3 --after harbour-dues",
                "jobs --count 3 --sort next --after harbour-dues",
                "jobs --failing --paused",
                "jobs --name *tide* --format json",
                "runs",
                "runs --count 7 --below 900 --format json",
                "runs --job tide-tables --outcome failed --origin schedule",
                "runs --error no_such_thing",
                "runs --job tide-tabels",
                "runs --spans",
                "show 17",
                "show 17 --format json",
                "show 99999999",
                "why tide-tables",
                "why tide-tables --at 2h --viewer-zone Asia/Tokyo",
                "why tide-tabels",
                "why tide-tables --at 2099-01-01T00:00Z",
                "changes --count 3",
                "changes --kind CHANGED --format json",
                "instances --all",
                "instances --all --format json",
                "tally --from 30h --until 26h",
                "tally --from 30h --until 26h --format json",
                "tally --from 30h --until 26h --job tide-tables --line-by-line --strict",
                "stats --from 30h --until 26h",
                "stats --from 30h --until 26h --format json",
                "pauses",
                "one-off list",
                "one-off list bridge-closure --prefix x --format json",
                "calendars",
                "calendars --format json",
                "named-leases --format json",
                "namespaces",
                "allowance --format json",
                "keep --format json",
                "doctor --strict",
                "doctor --format json",
                "seal head --format json",
                "seal verify",
                "seal verify --head 1:0000000000000000000000000000000000000000000000000000000000000000",
                "token list",
                "explain --job tide-tables --format json",
                "preview --job lamp-inspection --count 5 --from 2027-01-01T00:00Z",
                "preview --job buoy-telemetry --count 5 --from 2027-01-01T00:00Z --format json",
                "preview --job harbour-dues --month 2027-03",
                "roll-up --check --from 30h --until 26h --format json",
                "export ledger --format csv",
                "export changes --after changes:40",
                "rehearse store --for 1d --from 2027-03-27T00:00Z",
                "rehearse FILE --against store --for 1d --from 2027-03-27T00:00Z --format json",
                "diff FILE --format json",
                "jobs --as-of 27h --long",
                "jobs --as-of 27h --failing --format json",
                "jobs --as-of 2099-01-01T00:00Z",
                "runs --as-of 27h --count 20",
                "show 1000 --as-of 26h",
                "why tide-tables --as-of 27h",
                "why tide-tables --as-of 27h --at 28h",
                "instances --as-of 27h --all",
                "pauses --as-of 27h",
                "cancel --state running",
                "rerun --outcome failed --most 5",
                "rerun",
                "backfill tide-tables --from 2h",
                "drop --namespace main",
            })
    void aLookSaysTheSame(String command) {
        Said atDatabase = brume(words(command), "--data", looked.data.toString());
        Said atServer = brume(words(command), server(looked, admin));

        assertThat(atServer.timeless()).isEqualTo(atDatabase.timeless());
        assertThat(atServer.out + atServer.err).isNotBlank();
    }

    @Test
    void anAuditorsPageIsTheSameButForWhoWroteIt() throws IOException {
        String command = "tally --from 30h --until 26h --report ";
        Path one = folder.resolve("one.html");
        Path other = folder.resolve("other.html");
        assertThat(brume(words(command + one), "--data", looked.data.toString()).err)
                .contains("the report is in " + one);
        assertThat(brume(words(command + other), server(looked, admin)).err).contains("the report is in " + other);

        assertThat(timelessPage(other))
                .isEqualTo(timelessPage(one))
                .contains("held against the ledger", "select planned_at");
        assertThat(Files.readString(other)).contains("for desk", "/api/v1/tally/report");
    }

    private static String timelessPage(Path page) throws IOException {
        return new Said(0, Files.readString(page), "")
                .timeless()
                .out
                .replaceAll("(?s)<dl>.*?</dl>", "")
                .replaceAll("timestamp 'TIME'", "");
    }

    @Test
    void aSeriesOfOrdersSaysAndDoesTheSame() throws IOException {
        List<String> orders = List.of(
                "pause tide-tables --until +2h --because gauge --format json",
                "pause tide-tables --until +2h",
                "pause --tag nightly --days-of feasts --zone UTC --leave-out",
                "pause nothing-like-it",
                "resume tide-tables",
                "resume tide-tables",
                "resume --tag nightly --planned",
                "skip buoy-telemetry --format json",
                "run-now tide-tables --payload {\"quay\":4} --because gauge",
                "run-now tide-tabels",
                "backfill harbour-dues --from 26h --until 1h --yes",
                "backfill harbour-dues --from 2099-01-01",
                "cancel 999999",
                "cancel 1",
                "cancel --job tide-tables --state running --yes --format json",
                "cancel --job tide-tables --state waiting --yes",
                "rerun 1",
                "rerun --outcome failed --most 3 --yes",
                "one-off add bridge-closure regatta --at 2099-06-12T09:00 --zone America/Halifax --exclusive bridge",
                "one-off add bridge-closure regatta --at 2099-06-12T10:00Z --format json",
                "one-off add bridge-closure regatta --at 2099-06-12T10:00Z --or-move",
                "one-off add bridge-closure now --at now --once k1",
                "one-off add bridge-closure now --at now --once k1",
                "one-off move bridge-closure regatta --at 2099-06-13T10:00Z",
                "one-off move bridge-closure nobody --at 2099-06-13T10:00Z",
                "one-off move no-such-job nobody --at 2099-06-13T10:00Z",
                "one-off list --format json",
                "one-off drop bridge-closure regatta --because rain",
                "one-off drop bridge-closure regatta",
                "rename lamp-inspection lamps --because shorter --format json",
                "revert lamps 1 --because before --format json",
                "revert lamps 99",
                "revert no-such-job 1",
                "rename no-such-job lamps-2",
                "why lamp-inspection",
                "drain nobody",
                "erase 1",
                "erase 1 --because asked --format json",
                "erase 1 --because asked_again",
                "erase --job bridge-closure --key now --because asked",
                "show 1",
                "seal",
                "seal verify",
                "keep --for 4000d --runs 100000",
                "keep --floor 30d --format json",
                "keep --floor none",
                "keep --everything",
                "keep --apply",
                "allowance ferry --jobs 200 --interval 5m --work handler --because pier",
                "allowance ferry --anything",
                "allowance ferry --payload 3",
                "definitions accept nowhere",
                "roll-up",
                "roll-up --anew --format json",
                "drop weather-model --because done",
                "drop weather-model",
                "rename lamps lamp-inspection",
                "diff FILE",
                "sync FILE --yes --because back",
                "sync FILE --yes",
                "drop --namespace nowhere --yes",
                "token add gauge --role viewer --for 1d --format json",
                "token revoke gauge",
                "token revoke gauge",
                "token revoke nobody",
                "jobs",
                "pauses",
                "runs --count 20");
        try (Office one = Office.open(copy("ordered"));
                Office other = Office.open(copy("served"))) {
            Path token = other.token("desk", Grant.everywhere(Role.ADMIN));
            one.token("desk", Grant.everywhere(Role.ADMIN));
            SoftAssertions all = new SoftAssertions();
            for (String order : orders) {
                Said atDatabase = brume(words(order), withName(order, one));
                Said atServer = brume(words(order), server(other, token));

                assertThat(secretless(atServer.timeless())).as(order).isEqualTo(secretless(atDatabase.timeless()));
            }
            all.assertAll();
            List<String> changes = words("changes --count 200 --format json");
            assertThat(hostless(brume(changes, server(other, token))))
                    .isEqualTo(hostless(brume(changes, "--data", one.data.toString())))
                    .contains("BACKFILL_ORDERED", "RENAMED", "DROPPED", "\"harbour.yaml\"");
        }
    }

    /** An order at the database is given by whoever says so. */
    private static String[] withName(String order, Office office) {
        String first = order.split(" ")[0];
        boolean looks = List.of("why", "show", "diff", "jobs", "pauses", "runs").contains(first)
                || order.startsWith("seal verify")
                || order.startsWith("one-off list");
        return looks
                ? new String[] {"--data", office.data.toString()}
                : new String[] {"--data", office.data.toString(), "--as", "desk"};
    }

    /** Without what is drawn at random; what an order turns up that needs a person is told where the order is carried out. */
    private static Said secretless(Said said) {
        return new Said(
                said.code,
                said.out.replaceAll("brume_[A-Za-z0-9_ ]{20,}", "SECRET").replaceAll("\\b[0-9a-f]{16,64}", "DIGEST"),
                said.err.replaceAll("brume: PROBLEM .*\n", ""));
    }

    private static String hostless(Said said) {
        return secretless(said.timeless()).out.replaceAll("\"host\" : \"[^\"]*\"", "\"host\"");
    }

    @Test
    void whoMayNotIsToldAndSoIsWhoGoesAstray() throws IOException {
        Path viewer = looked.token("guest", Grant.within(List.of("main"), Role.VIEWER));
        Path stranger = looked.token("stranger", Grant.within(List.of("ferry"), Role.VIEWER));

        assertThat(brume(words("jobs"), server(looked, viewer)).out).contains("tide-tables", "instance", "alive");
        assertThat(brume(words("jobs"), server(looked, stranger)).out).doesNotContain("tide-tables");
        assertThat(brume(words("why tide-tables"), server(looked, stranger)).code)
                .isEqualTo(ExitCode.NOT_FOUND);
        Said refused = brume(words("pause buoy-telemetry"), server(looked, viewer));
        assertThat(refused.code).isEqualTo(ExitCode.USAGE);
        assertThat(refused.err).startsWith("brume: ").contains("guest").contains("operator");

        Path wrong = Files.writeString(viewer, "brume_not-a-token");
        assertThat(brume(words("jobs"), server(looked, wrong)).err).contains("BRUME_TOKEN, or --token-file FILE");
        Said away = brume(words("jobs"), "--server", "http://127.0.0.1:1", "--token-file", admin.toString());
        assertThat(away.code).isEqualTo(ExitCode.STORE);
        assertThat(away.err).contains("the server http://127.0.0.1:1 cannot be reached");
        assertThat(brume(words("jobs"), "--server", "quay-4:8480").err).contains("expected http://host:port");
        assertThat(brume(words("jobs"), "--server", "http://quay-4", "--data", "x").err)
                .contains("give one of them");
        assertThat(brume(words("skip buoy-telemetry --as ines"), server(looked, admin)).err)
                .contains("--as: at a server an order is its token's");
        assertThat(brume(words("restored"), server(looked, admin)).err).contains("at the database itself");
        Files.setPosixFilePermissions(wrong, PosixFilePermissions.fromString("rw-r--r--"));
        assertThat(brume(words("jobs"), server(looked, wrong)).err).contains("chmod 600");
    }

    @Test
    void whatIsNoBrumeIsSaidToBeNone() throws IOException {
        com.sun.net.httpserver.HttpServer stranger =
                com.sun.net.httpserver.HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        stranger.createContext("/api/v1/self", exchange -> answer(exchange, 200, "application/json", "{\"hello\":1}"));
        stranger.createContext("/", exchange -> answer(exchange, 404, "text/html", "<h1>Lost?</h1>"));
        stranger.start();
        try {
            String[] there = {
                "--server", "http://127.0.0.1:" + stranger.getAddress().getPort(), "--token-file", admin.toString()
            };
            Said jobs = brume(words("jobs"), there);
            assertThat(jobs.code).isEqualTo(ExitCode.STORE);
            assertThat(jobs.err)
                    .contains("the server says something else than expected", "a member 'now'")
                    .doesNotContain("\tat ");
            Said run = brume(words("show 1"), there);
            assertThat(run.code).isEqualTo(ExitCode.STORE);
            assertThat(run.err).contains("answers 404 and says nothing that is understood (is it a Brume?)");
        } finally {
            stranger.stop(0);
        }
    }

    private static void answer(HttpExchange exchange, int status, String type, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().add("Content-Type", type);
        exchange.sendResponseHeaders(status, bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }
}
