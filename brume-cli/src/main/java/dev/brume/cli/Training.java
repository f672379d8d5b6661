package dev.brume.cli;

import java.io.BufferedReader;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.io.PipedInputStream;
import java.io.PipedOutputStream;
import java.io.PrintStream;
import java.net.HttpURLConnection;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
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
            "/",
            "/jobs",
            "/jobs/main/tide-tables",
            "/runs",
            "/api/v1/jobs",
            "/api/v1/runs",
            "/api/v1/openapi.json");
    private static final String SERVING = "brume: serving ";
    private static final int PIPE = 1 << 16;
    private static final int PATIENCE_MILLIS = 60_000;

    /** Nobody sees this process: it must not stay for ever, whatever it waits for. */
    private static final Duration LONGEST = Duration.ofMinutes(5);

    private static final int GAVE_UP = 1;

    private Training() {}

    /** Goes through them in a folder of its own, which is gone afterwards. */
    public static void main(String[] args) throws Exception {
        PrintStream nowhere = new PrintStream(
                new TerminalStream(new RememberingStream(OutputStream.nullOutputStream())),
                false,
                StandardCharsets.UTF_8);
        System.setErr(nowhere);
        CompletableFuture.delayedExecutor(LONGEST.toSeconds(), TimeUnit.SECONDS)
                .execute(() -> Runtime.getRuntime().halt(GAVE_UP));
        Path folder = Files.createTempDirectory("brume-training");
        try {
            DemoWorld world = DemoWorld.create(folder.resolve("demo"), 8070);
            String file = world.definitions().toString();
            String data = " --data " + world.folder();
            // It serves, and runs nothing: what the demo's jobs would do is not its business.
            String serve = "serve --name training --no-programs --no-requests --drain-limit 1s --http 127.0.0.1:0";
            serve(serve + " --definitions " + file + data, world.folder(), () -> {
                WITH_DATA.forEach(command -> run(String.format(command, file) + data, nowhere));
                run("drain training" + data, nowhere);
            });
            WITH_DATA.forEach(command -> run(String.format(command, file) + data, nowhere));
            WITHOUT.forEach(command -> run(String.format(command, file), nowhere));
        } finally {
            try (Stream<Path> all = Files.walk(folder)) {
                for (Path path : all.sorted(Comparator.reverseOrder()).toList()) {
                    Files.delete(path);
                }
            }
        }
    }

    /** Serves, answers the first who ask, and ends when it was told to. */
    private static void serve(String command, Path data, Runnable meanwhile) throws Exception {
        try (PipedInputStream told = new PipedInputStream(PIPE);
                PrintStream err = new PrintStream(new PipedOutputStream(told), true, StandardCharsets.UTF_8);
                BufferedReader lines = new BufferedReader(new InputStreamReader(told, StandardCharsets.UTF_8))) {
            PrintStream out = new PrintStream(OutputStream.nullOutputStream(), false, StandardCharsets.UTF_8);
            Thread server = new Thread(() -> BrumeCommand.run(command.split(" "), out, err), "serve");
            server.setDaemon(true);
            server.start();
            String line = lines.readLine();
            while (line != null && !line.startsWith(SERVING)) {
                line = lines.readLine();
            }
            if (line == null) {
                throw new IllegalStateException("nothing was served by: " + command);
            }
            URI address = URI.create(line.substring(SERVING.length()).split(" ")[0]);
            String key = Files.readString(data.resolve("http-key")).strip();
            for (String path : ASKED) {
                HttpURLConnection asking =
                        (HttpURLConnection) address.resolve(path).toURL().openConnection();
                asking.setRequestProperty("Authorization", "Bearer " + key);
                asking.setReadTimeout(PATIENCE_MILLIS);
                asking.getResponseCode();
                asking.disconnect();
            }
            meanwhile.run();
            server.join();
        }
    }

    private static void run(String command, PrintStream nowhere) {
        BrumeCommand.run(command.split(" "), nowhere, nowhere);
    }
}
