package dev.brume.cli;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/**
 * The demo's folder: definitions, the programs they run, and the database.
 *
 * @param folder where
 */
record DemoWorld(Path folder) {
    private static final String BOARD = "http://127.0.0.1:8070";
    private static final String MARK = ".brume-demo";
    private static final List<String> FILES = List.of(
            "harbour.yaml",
            "minute.yaml",
            "feasts.ics",
            "work/archive-sync.sh",
            "work/buoy-telemetry.sh",
            "work/ferry-manifests.sh",
            "work/fog-signal.sh",
            "work/harbour-dues.sh",
            "work/lamp-inspection.sh",
            "work/say.sh",
            "work/tell.sh");

    /**
     * Creates the folder anew; only a folder that an earlier demo made is replaced.
     *
     * @param board the port of the notice board that one job writes to
     */
    static DemoWorld create(Path where, int board) {
        Path folder = where.toAbsolutePath().normalize();
        try {
            if (Files.exists(folder)) {
                clear(folder);
            }
            Files.createDirectories(folder);
            if (folder.getFileSystem().supportedFileAttributeViews().contains("posix")) {
                Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwx------"));
            }
            Files.createDirectories(folder.resolve("work"));
            Files.writeString(folder.resolve(MARK), "made by brume demo, which may replace this folder\n");
            for (String file : FILES) {
                copy(file, folder.resolve(file));
            }
            DemoWorld world = new DemoWorld(folder);
            String text = Files.readString(world.minute());
            Files.writeString(world.minute(), text.replace(BOARD, "http://127.0.0.1:" + board));
            return world;
        } catch (IOException e) {
            throw new UsageException("cannot use folder " + folder + " for the demo: " + e.getMessage()
                    + " (give another: --data FOLDER)");
        }
    }

    private static void clear(Path folder) throws IOException {
        boolean ours = Files.exists(folder.resolve(MARK));
        try (Stream<Path> inside = Files.list(folder)) {
            if (!ours && inside.findAny().isPresent()) {
                throw new UsageException("folder " + folder + " is there and is not an earlier demo's, so it is left"
                        + " alone (give another: --data FOLDER)");
            }
        }
        try (Stream<Path> all = Files.walk(folder)) {
            for (Path path : all.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(path);
            }
        }
    }

    private static void copy(String name, Path to) throws IOException {
        try (InputStream stream = DemoWorld.class.getResourceAsStream("demo/" + name)) {
            Files.copy(stream, to);
        } catch (NullPointerException absent) {
            throw new UncheckedIOException(new IOException("the command's jar lacks demo/" + name, absent));
        }
    }

    /** The definitions of the office. */
    Path definitions() {
        return folder.resolve("harbour.yaml");
    }

    /** The definitions of what can be watched within a minute. */
    Path minute() {
        return folder.resolve("minute.yaml");
    }
}
