package dev.brume.cli;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.JobName;
import java.io.BufferedReader;
import java.io.File;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Stream;

/**
 * Starts the demo's instances as processes, shows what they say, and kills one of them.
 *
 * <p>Readers of the processes' output put events into one queue; everything else happens on the thread
 * that plays.
 */
final class DemoShow implements AutoCloseable {
    private static final Duration CLOSED = Duration.ofSeconds(7);
    private static final Duration AT_LEAST = Duration.ofSeconds(25);

    private final DemoWorld world;
    private final PrintWriter out;
    private final Palette palette;
    private final EventPrinter printer;
    private final Map<String, Process> instances = new LinkedHashMap<>();
    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
    private final DemoPlot plot = new DemoPlot();

    DemoShow(DemoWorld world, PrintWriter out, Palette palette, ZoneId zone) {
        this.world = world;
        this.out = out;
        this.palette = palette;
        this.printer = new EventPrinter(out, /* json= */ false, palette, zone);
    }

    /**
     * Plays.
     *
     * @param office that has defined the jobs, so that they are owed before anyone is there to plan them
     */
    void play(Brume office, Duration atMost) throws IOException, InterruptedException {
        Instant opening = office.history().now().plus(CLOSED);
        say(
                "the office opens late",
                "for " + CLOSED.toSeconds()
                        + "s nobody plans the occurrences that fall due; ifMissed decides what happens to them");
        while (office.history().now().isBefore(opening)) {
            LockSupport.parkNanos(Duration.ofMillis(100).toNanos());
        }
        for (int i = 1; i <= 3; i++) {
            start("quay-" + i);
        }
        long begin = System.nanoTime();
        while (!isOver(Duration.ofNanos(System.nanoTime() - begin), atMost)) {
            Event event = events.poll(100, TimeUnit.MILLISECONDS);
            if (event != null) {
                printer.saw(event);
                plot.saw(event, System.nanoTime());
            }
            killIfTime();
            failIfNoneLives();
        }
        say(plot.isComplete() ? "everything was seen" : "time is over", "stopping the instances");
        stop();
    }

    private boolean isOver(Duration elapsed, Duration atMost) {
        return (plot.isComplete() && elapsed.compareTo(AT_LEAST) >= 0) || elapsed.compareTo(atMost) >= 0;
    }

    private void start(String name) throws IOException {
        String java = ProcessHandle.current().info().command().orElse("java");
        ProcessBuilder builder = new ProcessBuilder(
                java,
                "-XX:+UseSerialGC",
                "-XX:TieredStopAtLevel=1",
                "-ea:org.h2.mvstore.MVStore",
                "-cp",
                absoluteClassPath(),
                Main.class.getName(),
                "serve",
                "--name",
                name,
                "--data",
                world.folder().toString(),
                "--definitions",
                world.minute().toString(),
                "--lease",
                "4s",
                "--workers",
                "8",
                "--drain-limit",
                "5s",
                "--format",
                "json");
        builder.directory(world.folder().toFile());
        builder.redirectError(world.folder().resolve(name + ".err").toFile());
        Process process = builder.start();
        instances.put(name, process);
        Thread reader = new Thread(() -> read(process), name + "-reader");
        reader.setDaemon(true);
        reader.start();
    }

    private static String absoluteClassPath() {
        StringBuilder path = new StringBuilder();
        for (String entry : System.getProperty("java.class.path").split(java.io.File.pathSeparator)) {
            path.append(path.length() == 0 ? "" : java.io.File.pathSeparator).append(new File(entry).getAbsolutePath());
        }
        return path.toString();
    }

    private void read(Process process) {
        try (BufferedReader lines = process.inputReader(StandardCharsets.UTF_8)) {
            for (String line = lines.readLine(); line != null; line = lines.readLine()) {
                events.add(event(JSON.std.mapFrom(line)));
            }
        } catch (IOException e) {
            // The pipe broke because the process was killed, which is part of the show.
            Thread.currentThread().interrupt();
        }
    }

    private static Event event(Map<String, Object> map) {
        Object run = map.get("run");
        Event event = Event.of(
                Event.Kind.valueOf(text(map, "kind")),
                Instant.parse(text(map, "at")),
                text(map, "instance"),
                text(map, "text"));
        Event about = Optional.ofNullable((String) map.get("job"))
                .map(JobName::parse)
                .map(event::withJob)
                .orElse(event);
        return run == null ? about : about.withRun(Long.parseLong(run.toString()));
    }

    private static String text(Map<String, Object> map, String key) {
        return Objects.requireNonNull((String) map.get(key), () -> "an event has no " + key + ": " + map);
    }

    /** The last one is left alive: the story needs somebody who takes over. */
    private void killIfTime() {
        if (instances.values().stream().filter(Process::isAlive).count() < 2) {
            return;
        }
        plot.kill(System.nanoTime()).ifPresent(victim -> {
            say(
                    "kill -9 " + victim.instance(),
                    "in the middle of " + DemoPlot.VICTIM + " #" + victim.run()
                            + "; its lease ends in at most 4s, then another takes over");
            Objects.requireNonNull(instances.get(victim.instance()), victim::instance)
                    .destroyForcibly();
        });
    }

    private void failIfNoneLives() {
        if (instances.values().stream().noneMatch(Process::isAlive)) {
            throw new UsageException("none of the demo's instances lives any more; " + lastWords()
                    + "all they said is in " + world.folder() + "/quay-*.err");
        }
    }

    /** What the first instance said first is why. */
    private String lastWords() {
        Path said = world.folder().resolve(instances.keySet().iterator().next() + ".err");
        try (Stream<String> lines = Files.lines(said)) {
            return lines.filter(line -> !line.isBlank())
                    .findFirst()
                    .map(line -> said.getFileName() + " begins: " + line.strip() + "; ")
                    .orElse("");
        } catch (IOException e) {
            return said.getFileName() + " cannot be read (" + e.getMessage() + "); ";
        }
    }

    private void say(String what, String more) {
        out.println(palette.bold("-- " + what + " -- ") + more);
    }

    /** Asks all instances to stop, by a signal that leaves their output open, and shows what they still say. */
    private void stop() throws InterruptedException {
        instances.values().forEach(process -> process.toHandle().destroy());
        for (Process process : instances.values()) {
            process.waitFor(15, TimeUnit.SECONDS);
        }
        for (Event event = events.poll(200, TimeUnit.MILLISECONDS);
                event != null;
                event = events.poll(50, TimeUnit.MILLISECONDS)) {
            printer.saw(event);
        }
    }

    @Override
    public void close() {
        instances.values().forEach(Process::destroyForcibly);
    }
}
