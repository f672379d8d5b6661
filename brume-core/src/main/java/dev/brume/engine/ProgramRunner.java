package dev.brume.engine;

import dev.brume.Failure;
import dev.brume.Work;
import dev.brume.port.LeasedRun;
import java.io.File;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.Charset;
import java.nio.charset.CharsetEncoder;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Runs a program as the work of an attempt.
 *
 * <p>Standard output and error go to one buffer in the order they come. The run's facts are handed over
 * as variables: {@code BRUME_RUN}, {@code BRUME_JOB}, {@code BRUME_PLANNED}, {@code BRUME_ATTEMPT},
 * {@code BRUME_FENCE} and {@code BRUME_PAYLOAD}; of the run that it follows, {@code BRUME_PARENT}, {@code BRUME_PARENT_JOB},
 * {@code BRUME_PARENT_OUTCOME} and {@code BRUME_PARENT_RESULT}, else empty. To end it, its whole process tree gets TERM, itself first, and KILL
 * five seconds later; it has not ended well then, whatever its exit code says.
 */
final class ProgramRunner {
    private static final long KILL_AFTER_MILLIS = 5000;
    private static final long LAST_OUTPUT_MILLIS = 2000;

    /** In what the runtime encodes arguments and variables, as far as it says so. */
    private static final Charset NATIVE = named(System.getProperty("sun.jnu.encoding", ""));

    private final ActiveAttempt attempt;
    private final OutputBuffer output;
    private final Map<String, String> parent;

    ProgramRunner(ActiveAttempt attempt, OutputBuffer output, Map<String, String> parent) {
        this.attempt = attempt;
        this.output = output;
        this.parent = parent;
    }

    void run(Work.Program program) throws WorkFailed, InterruptedException {
        Process process = start(program);
        attempt.endBy(() -> end(process));
        Thread reader = new Thread(
                () -> read(process.getInputStream()), Thread.currentThread().getName() + "-output");
        reader.setDaemon(true);
        reader.start();
        int code = process.waitFor();
        boolean toldToEnd = attempt.wasCut();
        reader.join(LAST_OUTPUT_MILLIS);
        if (code != 0 || toldToEnd) {
            throw new WorkFailed(exited(code), Failure.exited(code));
        }
    }

    private Process start(Work.Program program) throws WorkFailed {
        ProcessBuilder builder = new ProcessBuilder(program.command());
        File folder = program.folder().map(File::new).orElse(null);
        if (folder != null && !folder.isDirectory()) {
            throw new WorkFailed("folder '" + folder + "' is not there (from " + here() + ")", Failure.UNKNOWN);
        }
        builder.directory(folder);
        Map<String, String> own = new HashMap<>(program.environment());
        own.putAll(facts(attempt.run()));
        Map<String, String> texts = new LinkedHashMap<>();
        program.command().forEach(argument -> texts.put("argument " + texts.size(), argument));
        own.forEach((name, value) -> texts.put("variable " + name, value));
        checkEncodable(texts);
        builder.environment().putAll(own);
        builder.redirectErrorStream(true);
        try {
            Process process = builder.start();
            process.getOutputStream().close();
            return process;
        } catch (IOException e) {
            throw new WorkFailed(notStarted(program.command().get(0), folder, e), Failure.UNKNOWN);
        }
    }

    /** A runtime under a locale without UTF-8 would hand over question marks instead, and nobody would know. */
    private static void checkEncodable(Map<String, String> texts) throws WorkFailed {
        for (Charset charset : List.of(Charset.defaultCharset(), NATIVE)) {
            CharsetEncoder encoder = charset.newEncoder();
            Optional<String> lost = texts.entrySet().stream()
                    .filter(text -> !encoder.canEncode(text.getValue()))
                    .map(Map.Entry::getKey)
                    .findFirst();
            if (lost.isPresent()) {
                throw new WorkFailed(
                        lost.get() + " cannot be handed to a program by this Java runtime, which encodes texts as "
                                + charset + "; start it under a UTF-8 locale, such as LC_ALL=C.UTF-8",
                        Failure.UNKNOWN);
            }
        }
    }

    private Map<String, String> facts(LeasedRun run) {
        Map<String, String> facts = new HashMap<>();
        facts.put("BRUME_RUN", Long.toString(run.id()));
        facts.put("BRUME_JOB", run.job().key().toString());
        facts.put("BRUME_PLANNED", run.row().owed().planned().toString());
        facts.put("BRUME_ATTEMPT", Integer.toString(run.row().attempt()));
        facts.put("BRUME_FENCE", Long.toString(run.row().lease().orElseThrow().fence()));
        facts.put("BRUME_PAYLOAD", run.row().payload().orElse(""));
        facts.put("BRUME_PARENT", parent.get("parent"));
        facts.put("BRUME_PARENT_JOB", parent.get("parentJob"));
        facts.put("BRUME_PARENT_OUTCOME", parent.get("parentOutcome"));
        facts.put("BRUME_PARENT_RESULT", parent.get("parentResult"));
        return facts;
    }

    private static String notStarted(String program, @Nullable File folder, IOException e) {
        String message = String.valueOf(e.getMessage());
        String where = folder == null ? here() : folder.getAbsolutePath();
        List<File> found =
                candidates(program, where).stream().filter(File::isFile).toList();
        if (found.isEmpty()) {
            return "program '" + program + "' not found (in folder " + where
                    + "; a name without '/' is looked up in PATH)";
        }
        if (found.stream().noneMatch(File::canExecute)) {
            return "program '" + program + "' may not be executed (in folder " + where + "; set its x permission)";
        }
        return "program '" + program + "' could not be started in folder " + where + ": " + message;
    }

    /** Where a program may be: the words of the runtime's own error differ between its versions, so it is looked for. */
    private static List<File> candidates(String program, String folder) {
        if (program.contains(File.separator)) {
            File given = new File(program);
            return List.of(given.isAbsolute() ? given : new File(folder, program));
        }
        return Stream.of(System.getenv().getOrDefault("PATH", "").split(File.pathSeparator))
                .map(directory -> new File(directory, program))
                .toList();
    }

    private static Charset named(String name) {
        try {
            return Charset.forName(name);
        } catch (IllegalArgumentException unknown) {
            return Charset.defaultCharset();
        }
    }

    private static String here() {
        return new File("").getAbsolutePath();
    }

    private static String exited(int code) {
        return code > 128 && code < 160
                ? "ended by signal " + (code - 128) + " (exit code " + code + ")"
                : "exit code " + code;
    }

    private void read(InputStream stream) {
        byte[] bytes = new byte[8192];
        try (stream) {
            for (int length = stream.read(bytes); length >= 0; length = stream.read(bytes)) {
                output.write(bytes, 0, length);
            }
        } catch (IOException e) {
            output.println("[output could not be read further: " + e.getMessage() + "]");
        }
    }

    /** What the tree starts meanwhile, and what has lost its parent, is killed with it. */
    private static void end(Process process) {
        List<ProcessHandle> tree = tree(process.toHandle()).toList();
        tree.forEach(ProcessHandle::destroy);
        CompletableFuture.allOf(tree.stream().map(ProcessHandle::onExit).toArray(CompletableFuture<?>[]::new))
                .orTimeout(KILL_AFTER_MILLIS, TimeUnit.MILLISECONDS)
                .whenComplete((ended, late) -> tree.stream()
                        .flatMap(ProgramRunner::tree)
                        .distinct()
                        .filter(ProcessHandle::isAlive)
                        .forEach(ProcessHandle::destroyForcibly));
    }

    private static Stream<ProcessHandle> tree(ProcessHandle root) {
        return Stream.concat(Stream.of(root), root.descendants());
    }
}
