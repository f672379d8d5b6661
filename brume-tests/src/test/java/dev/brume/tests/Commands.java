package dev.brume.tests;

import dev.brume.cli.CommandHost;
import dev.brume.tests.BrumeProcess.Result;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.jspecify.annotations.Nullable;

/**
 * Commands that are carried out one after another by one process in their folder: a process for each, as {@link BrumeProcess} starts it, takes the
 * better part of a second of a processor's time, and tests run hundreds. One folder at a time, by one thread.
 */
final class Commands {
    private static @Nullable Commands current;

    private final Path folder;
    private final Map<String, String> environment;
    private final Path errors;
    private final Process process;
    private final DataOutputStream commands;
    private final DataInputStream replies;

    private Commands(Path folder, Map<String, String> environment) throws IOException {
        this.folder = folder;
        this.environment = environment;
        Path jar = BrumeProcess.ROOT.resolve("brume-cli/target/brume.jar");
        Path java = Path.of(System.getProperty("java.home"));
        Path tests = Path.of(CommandHost.class
                .getProtectionDomain()
                .getCodeSource()
                .getLocation()
                .getPath());
        errors = Files.createTempFile("brume-commands", ".err");
        errors.toFile().deleteOnExit();
        ProcessBuilder builder = new ProcessBuilder(
                        java.resolve("bin/java").toString(),
                        "-XX:+UseSerialGC",
                        "-XX:TieredStopAtLevel=1",
                        "-ea:org.h2.mvstore.MVStore",
                        // The one that the launcher has made, if it has; without it the first command takes a second
                        // more.
                        "-XX:SharedArchiveFile="
                                + Path.of(System.getProperty("user.home"), ".cache/brume")
                                        .resolve(LauncherTest.archiveOf(java.resolve("release"), jar)),
                        "-Xlog:cds=off",
                        "-cp",
                        jar + ":" + tests,
                        CommandHost.class.getName())
                .directory(folder.toFile())
                .redirectError(errors.toFile());
        builder.environment().keySet().removeIf(name -> name.startsWith("BRUME_"));
        builder.environment()
                .put("BRUME_COMMAND", BrumeProcess.ROOT.resolve("brume").toString());
        builder.environment().putAll(environment);
        process = builder.start();
        commands = new DataOutputStream(process.getOutputStream());
        replies = new DataInputStream(process.getInputStream());
    }

    /** Carries out a command in a folder, to its end. */
    static Result run(Path folder, String... words) throws IOException, InterruptedException {
        return run(folder, Map.of(), words);
    }

    /** Carries out a command with variables of its own. */
    static Result run(Path folder, Map<String, String> environment, String... words)
            throws IOException, InterruptedException {
        if (current == null || !current.serves(folder, environment)) {
            if (current != null) {
                current.end();
            }
            current = new Commands(folder, environment);
        }
        return current.ask(List.of(words));
    }

    private boolean serves(Path where, Map<String, String> variables) {
        return process.isAlive() && folder.equals(where) && environment.equals(variables);
    }

    private Result ask(List<String> words) throws IOException, InterruptedException {
        commands.writeInt(words.size());
        for (String word : words) {
            byte[] bytes = word.getBytes(StandardCharsets.UTF_8);
            commands.writeInt(bytes.length);
            commands.write(bytes);
        }
        commands.flush();
        CompletableFuture<Result> reply = CompletableFuture.supplyAsync(this::reply);
        try {
            return reply.get(BrumeProcess.PATIENCE_SECONDS, TimeUnit.SECONDS);
        } catch (ExecutionException | TimeoutException e) {
            end();
            throw new AssertionError("no end of " + words + "; it said: " + Files.readString(errors), e);
        }
    }

    private Result reply() {
        try {
            return new Result(replies.readInt(), text(), text());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private String text() throws IOException {
        return new String(replies.readNBytes(replies.readInt()), StandardCharsets.UTF_8);
    }

    private void end() throws IOException, InterruptedException {
        process.destroyForcibly().waitFor();
        Files.deleteIfExists(errors);
    }
}
