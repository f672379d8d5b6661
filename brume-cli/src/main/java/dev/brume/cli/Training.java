package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.definitions.DefinitionFile;
import dev.brume.http.BrumeHttp;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.server.HttpServer;
import java.io.IOException;
import java.io.OutputStream;
import java.io.PrintStream;
import java.net.HttpURLConnection;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Goes through the commands once, so that the classes they need can be kept in an archive from which the next commands start
 * faster. The launcher does this in the background.
 */
public final class Training {
    private static final String NOBODY_THERE = "jdbc:postgresql://127.0.0.1:1/none?user=none&connectTimeout=1";
    private static final List<String> WITH_DATA = List.of(
            "jobs",
            "runs",
            "why tide-tables",
            "doctor",
            "tally",
            "stats",
            "changes",
            "instances",
            "one-off list",
            "run-now tide-tables",
            "diff %s",
            "rehearse %s --for 1d");
    private static final List<String> WITHOUT = List.of(
            "--help",
            "serve --help",
            "check %s",
            "preview --file %s",
            "explain --file %s --job tide-tables",
            "jobs --database " + NOBODY_THERE,
            "jobs --database " + NOBODY_THERE.replace("postgresql", "mariadb"));

    private static final List<String> ASKED = List.of(
            "/health/live",
            "/health/ready",
            "/metrics",
            "/sign-in",
            "/api/v1/jobs",
            "/api/v1/runs",
            "/api/v1/openapi.json");

    private Training() {}

    /** Goes through them in a folder of its own, which is gone afterwards. */
    public static void main(String[] args) throws Exception {
        PrintStream nowhere = new PrintStream(OutputStream.nullOutputStream(), false, StandardCharsets.UTF_8);
        System.setErr(nowhere);
        Path folder = Files.createTempDirectory("brume-training");
        try {
            DemoWorld world = DemoWorld.create(folder.resolve("demo"), 8070);
            String file = world.definitions().toString();
            try (EmbeddedDatabase database = EmbeddedDatabase.open(world.folder(), EmbeddedDatabase.Role.HOST)) {
                try (Brume brume = Brume.on(JdbcStore.on(database))
                        .withoutLog()
                        .instance("training")
                        .build()) {
                    brume.define(DefinitionFile.read(world.definitions()).definitions());
                    serve(brume);
                }
                WITH_DATA.forEach(command -> run(String.format(command, file) + " --data " + world.folder(), nowhere));
            }
            WITHOUT.forEach(command -> run(String.format(command, file), nowhere));
        } finally {
            try (Stream<Path> all = Files.walk(folder)) {
                for (Path path : all.sorted(Comparator.reverseOrder()).toList()) {
                    Files.delete(path);
                }
            }
        }
    }

    /** What serving loads, and answering the first who ask. */
    private static void serve(Brume brume) throws IOException {
        BrumeHttp http = BrumeHttp.of(brume)
                .key("training")
                .metrics(new MetricsPage(brume)::text)
                .build();
        try (HttpServer server = HttpServer.start(http, "127.0.0.1", 0, Optional.empty())) {
            for (String path : ASKED) {
                HttpURLConnection asking = (HttpURLConnection)
                        server.address().resolve(path).toURL().openConnection();
                asking.setRequestProperty("Authorization", "Bearer training");
                asking.getResponseCode();
                asking.disconnect();
            }
        }
    }

    private static void run(String command, PrintStream nowhere) {
        BrumeCommand.run(command.split(" "), nowhere, nowhere);
    }
}
