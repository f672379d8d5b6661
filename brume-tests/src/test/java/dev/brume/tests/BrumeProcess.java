package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;

/** The command as a process of its own, started by the launcher as a user would. */
final class BrumeProcess implements AutoCloseable {
    static final Path ROOT = findRoot();
    static final long PATIENCE_SECONDS = 240;

    private final Process process;
    private final Path errors;
    private final List<String> lines = new ArrayList<>();
    private final BlockingQueue<String> fresh = new LinkedBlockingQueue<>();
    private final Thread reader;

    /** What a command printed and how it ended. */
    record Result(int exitCode, String out, String err) {
        /** The output in one line: where a long line breaks depends on the names of this machine and its user. */
        String flat() {
            return out.replaceAll("\\s+", " ");
        }

        @SuppressWarnings("unchecked")
        List<Map<String, Object>> jsonList() {
            try {
                return (List<Map<String, Object>>) (List<?>) JSON.std.listFrom(out);
            } catch (IOException e) {
                throw new UncheckedIOException(out, e);
            }
        }

        Map<String, Object> json() {
            try {
                return JSON.std.mapFrom(out);
            } catch (IOException e) {
                throw new UncheckedIOException(out, e);
            }
        }
    }

    private BrumeProcess(Path folder, Map<String, String> environment, List<String> args) throws IOException {
        List<String> command = new ArrayList<>(List.of(ROOT.resolve("brume").toString()));
        command.addAll(args);
        errors = Files.createTempFile("brume", ".err");
        ProcessBuilder builder = new ProcessBuilder(command).directory(folder.toFile());
        builder.redirectError(errors.toFile());
        builder.environment().keySet().removeIf(name -> name.startsWith("BRUME_"));
        // Processes of tests live for seconds; the second compiler never earns there what it costs.
        builder.environment().put("BRUME_JAVA_OPTIONS", "-XX:TieredStopAtLevel=1");
        builder.environment().putAll(environment);
        process = builder.start();
        process.getOutputStream().close();
        reader = new Thread(this::read, "brume-output");
        reader.setDaemon(true);
        reader.start();
    }

    private static Path findRoot() {
        Path here = Path.of("").toAbsolutePath();
        return Files.exists(here.resolve("brume")) ? here : here.getParent();
    }

    /** Starts the command in a folder and leaves it running. */
    static BrumeProcess start(Path folder, String... args) throws IOException {
        return new BrumeProcess(folder, Map.of(), Arrays.asList(args));
    }

    /** Starts an instance called quay-1 that goes by the folder's harbour.yaml. */
    static BrumeProcess serve(Path folder, Map<String, String> environment, String... more) throws IOException {
        List<String> all = new ArrayList<>(
                List.of("serve", "--name", "quay-1", "--definitions", "harbour.yaml", "--lease", "10s"));
        all.addAll(List.of(more));
        return new BrumeProcess(folder, environment, all);
    }

    /** Starts the command with variables of its own. */
    static BrumeProcess start(Path folder, Map<String, String> environment, String... args) throws IOException {
        return new BrumeProcess(folder, environment, Arrays.asList(args));
    }

    /** Runs the command in a folder to its end. */
    static Result run(Path folder, String... args) throws IOException, InterruptedException {
        return run(folder, Map.of(), args);
    }

    static Result run(Path folder, Map<String, String> environment, String... args)
            throws IOException, InterruptedException {
        try (BrumeProcess brume = new BrumeProcess(folder, environment, Arrays.asList(args))) {
            return brume.result();
        }
    }

    /** Runs the command with its output going to a file or device. */
    static Result runInto(Path sink, Path folder, String... args) throws IOException, InterruptedException {
        List<String> command = new ArrayList<>(List.of(ROOT.resolve("brume").toString()));
        command.addAll(List.of(args));
        Path errors = Files.createTempFile("brume", ".err");
        ProcessBuilder builder = new ProcessBuilder(command).directory(folder.toFile());
        Process process = builder.redirectOutput(sink.toFile())
                .redirectError(errors.toFile())
                .start();
        assertThat(process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS)).isTrue();
        return new Result(process.exitValue(), "", Files.readString(errors));
    }

    private void read() {
        try (BufferedReader reader = process.inputReader(StandardCharsets.UTF_8)) {
            for (String line = reader.readLine(); line != null; line = reader.readLine()) {
                synchronized (lines) {
                    lines.add(line);
                }
                fresh.add(line);
            }
        } catch (IOException e) {
            fresh.add("[output ended: " + e.getMessage() + "]");
        }
    }

    /** Waits for the end. */
    Result result() throws InterruptedException, IOException {
        assertThat(process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS))
                .as("ended in time: %s", process.info())
                .isTrue();
        reader.join(TimeUnit.SECONDS.toMillis(PATIENCE_SECONDS));
        synchronized (lines) {
            String out = String.join("\n", lines) + (lines.isEmpty() ? "" : "\n");
            return new Result(process.exitValue(), out, Files.readString(errors));
        }
    }

    /** Waits for the next line that it prints. */
    String nextLine() throws InterruptedException {
        String line = fresh.poll(PATIENCE_SECONDS, TimeUnit.SECONDS);
        assertThat(line).as("a line of %s", lines).isNotNull();
        return line;
    }

    /** Waits until it prints an event that fits; returns it. */
    Map<String, Object> await(Predicate<Map<String, Object>> condition) throws InterruptedException, IOException {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_SECONDS);
        while (System.nanoTime() - until < 0) {
            String line = fresh.poll(until - System.nanoTime(), TimeUnit.NANOSECONDS);
            if (line != null && line.startsWith("{")) {
                Map<String, Object> event = JSON.std.mapFrom(line);
                if (condition.test(event)) {
                    return event;
                }
            }
        }
        throw new AssertionError("waited in vain; it said: " + lines + "\n" + Files.readString(errors));
    }

    static Predicate<Map<String, Object>> kind(String kind) {
        return event -> kind.equals(event.get("kind"));
    }

    static Predicate<Map<String, Object>> kindOf(String kind, String job) {
        return event -> kind.equals(event.get("kind")) && job.equals(event.get("job"));
    }

    /** Sends TERM. */
    void terminate() {
        process.toHandle().destroy();
    }

    /** Sends KILL. */
    void kill() {
        process.toHandle().destroyForcibly();
    }

    @Override
    public void close() throws IOException {
        process.destroyForcibly();
        Files.deleteIfExists(errors);
    }
}
