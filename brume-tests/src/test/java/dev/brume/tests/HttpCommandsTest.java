package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.KeyStore;
import java.util.Base64;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The command that serves over HTTP, and the one that makes tokens, as processes. */
class HttpCommandsTest {
    private static final String PASSWORD = "of the key store";

    @TempDir
    private Path folder;

    @BeforeEach
    void anOfficeIsThere() throws Exception {
        Files.writeString(folder.resolve("harbour.yaml"), """
                namespace: harbour
                jobs:
                  tide-tables:
                    when: [{cron: "15 4 * * *", zone: Atlantic/Azores}]
                    work: {program: ["true"]}
                """);
        assertThat(Commands.run(folder, "sync", "harbour.yaml", "--create", "--yes")
                        .exitCode())
                .isZero();
    }

    private static HttpResponse<String> get(HttpClient client, URI uri, String token) throws Exception {
        return client.send(
                HttpRequest.newBuilder(uri)
                        .header("Authorization", "Bearer " + token)
                        .build(),
                BodyHandlers.ofString());
    }

    private static URI address(BrumeProcess process) throws Exception {
        String line = process.nextLine();
        return URI.create(line.replaceFirst(".*serving (https?://\\S+) .*", "$1"));
    }

    @Test
    void theConsoleServesWhoeverHasTheKeyAndTakesItAway() throws Exception {
        Path key = folder.resolve("brume-data/http-key");
        try (BrumeProcess console = BrumeProcess.start(folder, "console", "--http", "127.0.0.1:0")) {
            URI address = address(console);
            HttpClient client = HttpClient.newHttpClient();

            assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(key)))
                    .isEqualTo("rw-------");
            assertThat(get(client, address.resolve("/api/v1/jobs"), "another").statusCode())
                    .isEqualTo(401);
            assertThat(get(
                                    client,
                                    address.resolve("/api/v1/jobs"),
                                    Files.readString(key).strip())
                            .body())
                    .contains("harbour/tide-tables");
            assertThat(get(
                                    client,
                                    address.resolve("/metrics"),
                                    Files.readString(key).strip())
                            .body())
                    .contains("# EOF");
            console.terminate();
            BrumeProcess.Result result = console.result();
            assertThat(result.exitCode()).as(result.err()).isZero();
            assertThat(result.out()).as("a link is for terminals alone").doesNotContain("/open/");
            assertThat(key).doesNotExist();
        }
    }

    @Test
    void aTokenIsPrintedAloneAndListedWithoutItsSecret() throws Exception {
        BrumeProcess.Result made = Commands.run(
                folder, "token", "add", "quay-bot", "--role", "operator", "--namespace", "harbour", "--for", "90d");
        assertThat(made.out().strip()).matches("brume_[A-Za-z0-9_-]{43}");
        assertThat(made.err()).contains("quay-bot is operator of harbour, until ");

        BrumeProcess.Result listed = Commands.run(folder, "token", "list");
        assertThat(listed.flat())
                .contains("quay-bot operator of harbour")
                .doesNotContain(made.out().strip());
        assertThat(Commands.run(folder, "token", "add", "quay-bot", "--role", "viewer")
                        .err())
                .contains("there is a token 'quay-bot' already");
        assertThat(Commands.run(folder, "token", "revoke", "quay-bot", "--because", "sold")
                        .out())
                .contains("token quay-bot is revoked");
        assertThat(Commands.run(folder, "token", "list").flat()).contains("REVOKED");
        assertThat(Commands.run(folder, "token", "revoke", "nobody").exitCode()).isEqualTo(1);
    }

    @Test
    void beyondThisMachineItRefusesWithoutTokensAndServesOverTlsWithOne() throws Exception {
        BrumeProcess.Result refused = BrumeProcess.run(folder, "serve", "--http", "0.0.0.0:0");
        assertThat(refused.exitCode()).isEqualTo(2);
        assertThat(refused.err()).contains("is beyond this machine", "brume token add NAME --role operator");
        assertThat(BrumeProcess.run(folder, "serve", "--http", "nowhere").err()).contains("expected HOST:PORT");

        String token = Commands.run(folder, "token", "add", "ines", "--role", "viewer")
                .out()
                .strip();
        Path store = folder.resolve("keys.p12");
        Process keytool = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "keytool")
                                .toString(),
                        "-genkeypair",
                        "-alias",
                        "quay",
                        "-keyalg",
                        "EC",
                        "-dname",
                        "CN=localhost",
                        "-ext",
                        "SAN=dns:localhost,ip:127.0.0.1",
                        "-keystore",
                        store.toString(),
                        "-storepass",
                        PASSWORD)
                .inheritIO()
                .start();
        assertThat(keytool.waitFor(60, TimeUnit.SECONDS)).isTrue();
        assertThat(BrumeProcess.run(folder, "console", "--http-key-store", "keys.p12")
                        .err())
                .contains("BRUME_HTTP_KEY_STORE_PASSWORD, which is not set");
        try (BrumeProcess console = BrumeProcess.start(
                folder,
                Map.of("BRUME_HTTP_KEY_STORE_PASSWORD", PASSWORD),
                "console",
                "--http",
                "0.0.0.0:0",
                "--http-key-store",
                "keys.p12")) {
            URI local = URI.create("https://localhost:" + address(console).getPort());
            HttpClient client =
                    HttpClient.newBuilder().sslContext(trusting(store)).build();
            assertThat(get(client, local.resolve("/api/v1/jobs"), token).body()).contains("tide-tables");
            HttpResponse<String> in = client.send(
                    HttpRequest.newBuilder(local.resolve("/sign-in"))
                            .header("Content-Type", "application/x-www-form-urlencoded")
                            .header("Sec-Fetch-Site", "same-origin")
                            .POST(HttpRequest.BodyPublishers.ofString("token=" + token))
                            .build(),
                    BodyHandlers.ofString());
            assertThat(in.headers().firstValue("Set-Cookie").orElse("")).endsWith("; Secure");
            theCommandAsksIt(local, token, pem(store));
        }
    }

    /** With variables, as where a machine has no way to the database. */
    private void theCommandAsksIt(URI server, String token, Path certificate) throws Exception {
        Map<String, String> way = Map.of("BRUME_SERVER", server.toString(), "BRUME_TOKEN", token);
        BrumeProcess.Result strange = Commands.run(folder, way, "jobs");
        assertThat(strange.exitCode()).isEqualTo(3);
        assertThat(strange.err()).contains("is not trusted", "--trust FILE");
        BrumeProcess.Result jobs =
                Commands.run(folder, way, "jobs", "--trust", certificate.toString(), "--format", "json");
        assertThat(jobs.jsonList().get(0)).containsEntry("job", "harbour/tide-tables");
        BrumeProcess.Result paused =
                Commands.run(folder, way, "pause", "harbour/tide-tables", "--trust", certificate.toString());
        assertThat(paused.exitCode()).isEqualTo(2);
        assertThat(paused.err()).contains("ines is viewer everywhere");
        assertThat(Commands.run(folder, way, "jobs", "--data", "brume-data").exitCode())
                .as("what the command line says goes before variables")
                .isZero();
        assertThat(Commands.run(folder, way, "restored").err()).contains("at the database itself");
    }

    private Path pem(Path store) throws Exception {
        KeyStore keys = KeyStore.getInstance("PKCS12");
        try (InputStream in = Files.newInputStream(store)) {
            keys.load(in, PASSWORD.toCharArray());
        }
        String lines = Base64.getMimeEncoder(64, new byte[] {'\n'})
                .encodeToString(keys.getCertificate("quay").getEncoded());
        return Files.writeString(
                folder.resolve("quay.pem"), "-----BEGIN CERTIFICATE-----\n" + lines + "\n-----END CERTIFICATE-----\n");
    }

    private static SSLContext trusting(Path store) throws Exception {
        KeyStore keys = KeyStore.getInstance("PKCS12");
        try (InputStream in = Files.newInputStream(store)) {
            keys.load(in, PASSWORD.toCharArray());
        }
        KeyStore trusted = KeyStore.getInstance("PKCS12");
        trusted.load(null, null);
        trusted.setCertificateEntry("quay", keys.getCertificate("quay"));
        TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        factory.init(trusted);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(null, factory.getTrustManagers(), null);
        return context;
    }
}
