package dev.brume.internal.work;

import java.io.BufferedWriter;
import java.io.File;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A small process beside this one that ends the programs of this one when it is gone, however it went.
 *
 * <p>It waits at the other end of a pipe, which the system closes when this process dies. It finds a program by its process id, with
 * whatever descends from it, and by the variable {@value #VARIABLE}, which all inherit who do not clear their environment, also those that have lost
 * their parents. One serves the whole process; it is started with the first program, and again should it be gone. It needs a shell and
 * {@code /proc}, so Linux; elsewhere programs may outlive a process that is killed, which is said once. Safe for use by many threads.
 */
final class Supervisor {
    /** Names the tree of processes that an attempt has started. */
    static final String VARIABLE = "BRUME_TREE";

    private static final Logger LOG = LoggerFactory.getLogger(Supervisor.class);
    private static final Path SHELL = Path.of("/bin/sh");
    private static final Supervisor OF_THIS_PROCESS = new Supervisor();

    private final Map<String, OptionalLong> live = new LinkedHashMap<>();
    private @Nullable Process process;
    private @Nullable Writer pipe;
    private boolean unavailable;

    static Supervisor ofThisProcess() {
        return OF_THIS_PROCESS;
    }

    /** Notes that a program is about to start. */
    synchronized void starts(String tree) {
        live.put(tree, OptionalLong.empty());
        tell(tree);
    }

    /** Notes the process id of a program that runs. */
    synchronized void runs(String tree, long pid) {
        live.put(tree, OptionalLong.of(pid));
        tell(tree);
    }

    /** Notes that a program has ended; what it has left behind on purpose may stay. */
    synchronized void ended(String tree) {
        live.remove(tree);
        tell(tree);
    }

    private void tell(String tree) {
        if (unavailable) {
            return;
        }
        try {
            if (pipe == null || process == null || !process.isAlive()) {
                startAnew();
            } else {
                write(pipe, tree);
                pipe.flush();
            }
        } catch (IOException gone) {
            LOG.debug("the supervisor of programs is gone ({}), another is started", gone.getMessage());
            startAnew();
        }
    }

    private void write(Writer to, String tree) throws IOException {
        OptionalLong pid = live.get(tree);
        if (pid == null) {
            to.write("- " + tree + "\n");
        } else {
            to.write(pid.isPresent() ? "= " + tree + " " + pid.getAsLong() + "\n" : "+ " + tree + "\n");
        }
    }

    private void startAnew() {
        if (!Files.isExecutable(SHELL) || !Files.isDirectory(Path.of("/proc/self"))) {
            unavailable = true;
            LOG.warn("there is no /bin/sh or no /proc here, so programs may outlive this process if it is killed");
            return;
        }
        closePipe();
        try {
            ProcessBuilder builder = new ProcessBuilder(SHELL.toString(), "-c", script(), "brume-supervisor")
                    .directory(new File("/"))
                    .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                    .redirectError(ProcessBuilder.Redirect.DISCARD);
            builder.environment().remove(VARIABLE);
            ProgramEnvironment.withoutDatabase(builder.environment());
            process = builder.start();
            pipe = new BufferedWriter(new OutputStreamWriter(process.getOutputStream(), StandardCharsets.US_ASCII));
            for (String tree : live.keySet()) {
                write(pipe, tree);
            }
            pipe.flush();
        } catch (IOException e) {
            // The next program tries again.
            LOG.warn(
                    "programs may outlive this process if it is killed: their supervisor did not start: {}",
                    e.getMessage());
        }
    }

    private void closePipe() {
        try {
            if (pipe != null) {
                pipe.close();
            }
        } catch (IOException e) {
            LOG.debug("closing the pipe to a supervisor that is gone: {}", e.getMessage());
        }
        pipe = null;
    }

    private static String script() {
        try (InputStream script = Supervisor.class.getResourceAsStream("supervisor.sh")) {
            return new String(script.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
