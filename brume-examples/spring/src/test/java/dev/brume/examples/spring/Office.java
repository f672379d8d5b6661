package dev.brume.examples.spring;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** One instance of the application, as a process of its own. */
final class Office implements AutoCloseable {
    private static final Pattern PORT = Pattern.compile("Tomcat started on port (\\d+)");
    private static final HttpClient HTTP = HttpClient.newHttpClient();

    private final Process process;
    private final Thread reader;
    private final List<String> log = new CopyOnWriteArrayList<>();
    private final CompletableFuture<Integer> port = new CompletableFuture<>();

    private Office(Process process) {
        this.process = process;
        reader = new Thread(this::read, "office-log");
        reader.setDaemon(true);
        reader.start();
    }

    static Office start(String database, String instance, String... more) throws IOException {
        return start(HarbourOfficeApplication.class, database, instance, more);
    }

    static Office start(Class<?> application, String database, String instance, String... more) throws IOException {
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                application.getName(),
                "--server.port=0",
                "--brume.instance=" + instance));
        command.addAll(List.of(more));
        ProcessBuilder builder = new ProcessBuilder(command).redirectErrorStream(true);
        builder.environment().put("HARBOUR_DATABASE", database);
        return new Office(builder.start());
    }

    private void read() {
        try (BufferedReader lines =
                new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8))) {
            for (String line = lines.readLine(); line != null; line = lines.readLine()) {
                log.add(line);
                Matcher started = PORT.matcher(line);
                if (started.find()) {
                    port.complete(Integer.valueOf(started.group(1)));
                }
            }
            port.completeExceptionally(new IllegalStateException("it ended:\n" + String.join("\n", log)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    List<String> log() {
        return log;
    }

    HttpResponse<String> send(String method, String path, String body, String accept) throws Exception {
        URI url = URI.create("http://localhost:" + port.get(120, TimeUnit.SECONDS) + path);
        return HTTP.send(
                HttpRequest.newBuilder(url)
                        .header("Content-Type", "application/json")
                        .header("Accept", accept)
                        .method(method, HttpRequest.BodyPublishers.ofString(body))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }

    /** Sends something as somebody of the office. */
    HttpResponse<String> as(String who, String method, String path, String body) throws Exception {
        String secret =
                Base64.getEncoder().encodeToString((who + ":only-for-this-sample").getBytes(StandardCharsets.UTF_8));
        URI url = URI.create("http://localhost:" + port.get(120, TimeUnit.SECONDS) + path);
        return HTTP.send(
                HttpRequest.newBuilder(url)
                        .header("Content-Type", "application/json")
                        .header("Authorization", "Basic " + secret)
                        .method(method, HttpRequest.BodyPublishers.ofString(body))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }

    HttpResponse<String> send(String method, String path, String body) throws Exception {
        return send(method, path, body, "application/json");
    }

    String get(String path) throws Exception {
        return send("GET", path, "").body();
    }

    /** Tells it to end, and waits until it has. */
    int terminate() throws InterruptedException {
        // Destroying the process itself would close its output.
        process.toHandle().destroy();
        if (!process.waitFor(60, TimeUnit.SECONDS)) {
            throw new IllegalStateException("it does not end:\n" + String.join("\n", log));
        }
        reader.join();
        return process.exitValue();
    }

    @Override
    public void close() {
        process.destroyForcibly();
    }
}
