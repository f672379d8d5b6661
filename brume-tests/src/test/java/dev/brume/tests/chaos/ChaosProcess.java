package dev.brume.tests.chaos;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;

/** An instance in a process of its own, as the test holds it. */
final class ChaosProcess {
    private static final long PATIENCE_SECONDS = 60;

    private final String name;
    private final Optional<TcpProxy> proxy;
    private static final String OVER = "[it has ended]";

    private final Path errors;
    private final Process process;
    private final BlockingQueue<String> said = new LinkedBlockingQueue<>();

    /** An instance on a server, behind a proxy. */
    static ChaosProcess on(
            ChaosServer server, String name, String schema, int leaseSeconds, Path record, List<String> prefix)
            throws IOException {
        TcpProxy proxy = new TcpProxy(server.port());
        return new ChaosProcess(
                name, server.url(proxy.port()), schema, leaseSeconds, record, prefix, Optional.of(proxy));
    }

    /** An instance on an embedded database. */
    static ChaosProcess in(Path folder, String name, int leaseSeconds, Path record) throws IOException {
        return new ChaosProcess(
                name, ChaosWorker.FOLDER + folder, "-", leaseSeconds, record, List.of(), Optional.empty());
    }

    private ChaosProcess(
            String name,
            String url,
            String schema,
            int leaseSeconds,
            Path record,
            List<String> prefix,
            Optional<TcpProxy> proxy)
            throws IOException {
        this.name = name;
        this.proxy = proxy;
        List<String> command = new ArrayList<>(prefix);
        command.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                ChaosWorker.class.getName(),
                url,
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
        return proxy.orElseThrow();
    }

    /** {@return whether its process is over} The end of its output comes a little before. */
    boolean hasEnded() throws InterruptedException {
        return process.waitFor(10, TimeUnit.SECONDS);
    }

    /** Waits until it says something that begins so; returns that. */
    String await(String beginning) throws InterruptedException {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_SECONDS);
        List<String> seen = new ArrayList<>();
        while (System.nanoTime() - until < 0) {
            String line = said.poll(until - System.nanoTime(), TimeUnit.NANOSECONDS);
            if (line != null && line.startsWith(beginning)) {
                return line;
            }
            seen.add(line);
            if (line == null || line.equals(OVER)) {
                break;
            }
        }
        throw new AssertionError(name + " never said " + beginning + "; last "
                + seen.subList(Math.max(0, seen.size() - 10), seen.size()) + "\n" + readErrors());
    }

    /** Waits for so long at most until it says something that begins so; tells whether it did. */
    boolean says(String beginning, Duration limit) throws InterruptedException {
        long until = System.nanoTime() + limit.toNanos();
        for (long left = limit.toNanos(); left > 0; left = until - System.nanoTime()) {
            String line = said.poll(left, TimeUnit.NANOSECONDS);
            if (line != null && line.startsWith(beginning)) {
                return true;
            }
        }
        return false;
    }

    /** Forgets what it has said; returns the end of that. */
    List<String> lastSaid() {
        List<String> all = new ArrayList<>();
        said.drainTo(all);
        return all.subList(Math.max(0, all.size() - 10), all.size());
    }

    /** What its threads are at, and what it wrote to standard error, for whoever has to find out why it stands still. */
    String threads() throws IOException, InterruptedException {
        Process stacks = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "jstack")
                                .toString(),
                        Long.toString(process.pid()))
                .redirectErrorStream(true)
                .start();
        String text = new String(stacks.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        stacks.waitFor();
        return text + readErrors();
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

    void awaitEnd() throws IOException, InterruptedException {
        if (!process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS)) {
            throw new AssertionError(name + " has not ended; last " + lastSaid() + "\n" + threads());
        }
    }

    void destroy() throws IOException {
        process.destroyForcibly();
        if (proxy.isPresent()) {
            proxy.get().close();
        }
    }
}
