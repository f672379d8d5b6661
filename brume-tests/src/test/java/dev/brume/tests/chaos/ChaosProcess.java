package dev.brume.tests.chaos;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;

/** An instance in a process of its own, as the test holds it. */
final class ChaosProcess {
    private static final long PATIENCE_SECONDS = 60;

    private final String name;
    private final TcpProxy proxy;
    private static final String OVER = "[it has ended]";

    private final Path errors;
    private final Process process;
    private final BlockingQueue<String> said = new LinkedBlockingQueue<>();

    ChaosProcess(String name, ChaosServer server, String schema, int leaseSeconds, Path record, List<String> prefix)
            throws IOException {
        this.name = name;
        this.proxy = new TcpProxy(server.port());
        List<String> command = new ArrayList<>(prefix);
        command.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                ChaosWorker.class.getName(),
                server.url(proxy.port()),
                schema,
                name,
                Integer.toString(leaseSeconds),
                record.toString()));
        errors = record.resolveSibling(name + ".err");
        process = new ProcessBuilder(command).redirectError(errors.toFile()).start();
        Thread reader = new Thread(this::read, name + "-output");
        reader.setDaemon(true);
        reader.start();
    }

    private void read() {
        try (BufferedReader reader = process.inputReader(StandardCharsets.UTF_8)) {
            for (String line = reader.readLine(); line != null; line = reader.readLine()) {
                said.add(line);
            }
        } catch (IOException e) {
            said.add("[output ended: " + e.getMessage() + "]");
        }
        said.add(OVER);
    }

    String name() {
        return name;
    }

    TcpProxy proxy() {
        return proxy;
    }

    boolean isAlive() {
        return process.isAlive();
    }

    /** Waits until it says something that begins so. */
    void await(String beginning) throws InterruptedException {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_SECONDS);
        List<String> seen = new ArrayList<>();
        while (System.nanoTime() - until < 0) {
            String line = said.poll(until - System.nanoTime(), TimeUnit.NANOSECONDS);
            if (line != null && line.startsWith(beginning)) {
                return;
            }
            seen.add(line);
            if (line == null || line.equals(OVER)) {
                break;
            }
        }
        throw new AssertionError(name + " never said " + beginning + "; last "
                + seen.subList(Math.max(0, seen.size() - 10), seen.size()) + "\n" + readErrors());
    }

    private String readErrors() {
        try {
            return Files.readString(errors);
        } catch (IOException e) {
            return "its errors cannot be read: " + e.getMessage();
        }
    }

    void order(String order) throws IOException {
        process.getOutputStream().write((order + "\n").getBytes(StandardCharsets.UTF_8));
        process.getOutputStream().flush();
    }

    /** Sends a signal by its name. */
    void signal(String signal) throws IOException, InterruptedException {
        Process kill = new ProcessBuilder("kill", "-" + signal, Long.toString(process.pid())).start();
        assertThat(kill.waitFor(10, TimeUnit.SECONDS)).isTrue();
    }

    void awaitEnd() throws InterruptedException {
        assertThat(process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS))
                .as(name + " ended")
                .isTrue();
    }

    void destroy() throws IOException {
        process.destroyForcibly();
        proxy.close();
    }
}
