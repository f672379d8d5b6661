package dev.brume.internal.work;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.DirectoryIteratorException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;

/**
 * A program with all that it has started. Whoever has lost its parent is still known by the variable {@value Supervisor#VARIABLE}, on Linux. Immutable and
 * safe for use by many threads.
 */
final class ProcessTree {
    private static final long KILL_AFTER_MILLIS = 5000;
    private static final Path PROCESSES = Path.of("/proc");

    private final ProcessHandle root;
    private final byte[] mark;

    ProcessTree(ProcessHandle root, String tree) {
        this.root = root;
        this.mark = (Supervisor.VARIABLE + "=" + tree).getBytes(StandardCharsets.US_ASCII);
    }

    /** Tells all to end, the root first, and kills whoever is left five seconds later, or as soon as those have ended. */
    void end() {
        List<ProcessHandle> told = list(List.of());
        told.forEach(ProcessHandle::destroy);
        CompletableFuture.allOf(told.stream().map(ProcessHandle::onExit).toArray(CompletableFuture<?>[]::new))
                .orTimeout(KILL_AFTER_MILLIS, TimeUnit.MILLISECONDS)
                .whenComplete((ended, late) -> list(told).forEach(ProcessHandle::destroyForcibly));
    }

    /** All that live now, with what descends from those known before. */
    private List<ProcessHandle> list(List<ProcessHandle> known) {
        return Stream.of(Stream.of(root), known.stream(), marked().stream())
                .flatMap(handles -> handles)
                .flatMap(handle -> Stream.concat(Stream.of(handle), handle.descendants()))
                .distinct()
                .filter(ProcessHandle::isAlive)
                .toList();
    }

    private List<ProcessHandle> marked() {
        List<ProcessHandle> found = new ArrayList<>();
        if (!Files.isDirectory(PROCESSES)) {
            return found;
        }
        try (DirectoryStream<Path> processes = Files.newDirectoryStream(PROCESSES, "[0-9]*")) {
            for (Path process : processes) {
                if (isMarked(process.resolve("environ"))) {
                    Optional<ProcessHandle> handle = ProcessHandle.of(
                            Long.parseLong(process.getFileName().toString()));
                    handle.ifPresent(found::add);
                }
            }
        } catch (IOException | DirectoryIteratorException e) {
            // Those found so far are ended all the same.
            return found;
        }
        return found;
    }

    private boolean isMarked(Path environment) {
        try {
            return contains(Files.readAllBytes(environment));
        } catch (IOException notOursOrGone) {
            return false;
        }
    }

    private boolean contains(byte[] bytes) {
        for (int at = 0; at + mark.length <= bytes.length; at++) {
            if (Arrays.equals(bytes, at, at + mark.length, mark, 0, mark.length)) {
                return true;
            }
        }
        return false;
    }
}
