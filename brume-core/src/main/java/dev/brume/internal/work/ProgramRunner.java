package dev.brume.internal.work;

import dev.brume.Failure;
import dev.brume.Work;
import java.io.File;
import java.io.IOException;
import java.nio.charset.Charset;
import java.nio.charset.CharsetEncoder;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Runs a program as the work of an attempt.
 *
 * <p>Standard output and error go to one buffer in the order they come, until it ends; later output of its children is not read. The run's
 * facts are handed over as variables, see {@link ProgramFacts}. To end it, its whole process tree gets TERM, itself first, and any process left of it five
 * seconds later KILL; this counts as a failure, whatever its exit code says. If this process is killed, the {@link Supervisor} ends it.
 */
final class ProgramRunner {
    /** In what the runtime encodes arguments and variables, as far as it says so. */
    private static final Charset NATIVE = named(System.getProperty("sun.jnu.encoding", ""));

    private final ActiveAttempt attempt;
    private final OutputBuffer output;
    private final Map<String, String> parent;
    private final Map<String, String> traces;

    ProgramRunner(ActiveAttempt attempt, OutputBuffer output, Map<String, String> parent, Map<String, String> traces) {
        this.attempt = attempt;
        this.output = output;
        this.parent = parent;
        this.traces = traces;
    }

    void run(Work.Program program) throws WorkFailed, InterruptedException {
        String tree = UUID.randomUUID().toString();
        Supervisor supervisor = Supervisor.ofThisProcess();
        try (ProgramFacts facts = facts(tree)) {
            supervisor.starts(tree);
            Process process = start(program, facts);
            supervisor.runs(tree, process.pid());
            attempt.endBy(() -> new ProcessTree(process.toHandle(), tree).end());
            await(process);
        } finally {
            supervisor.ended(tree);
        }
    }

    private ProgramFacts facts(String tree) throws WorkFailed {
        try {
            return new ProgramFacts(attempt.run(), parent, tree);
        } catch (IOException e) {
            throw new WorkFailed(
                    "a fact too long for a variable could not be written to a file in "
                            + System.getProperty("java.io.tmpdir") + ": " + e.getMessage(),
                    Failure.UNKNOWN);
        }
    }

    private void await(Process process) throws WorkFailed, InterruptedException {
        Thread reader = new Thread(
                new ProgramOutput(process, output), Thread.currentThread().getName() + "-output");
        reader.setDaemon(true);
        reader.start();
        int code = process.waitFor();
        boolean toldToEnd = attempt.wasCut();
        reader.join();
        if (code != 0 || toldToEnd) {
            throw new WorkFailed(exited(code), Failure.exited(code));
        }
    }

    private Process start(Work.Program program, ProgramFacts facts) throws WorkFailed {
        ProcessBuilder builder = new ProcessBuilder(program.command());
        File folder = program.folder().map(File::new).orElse(null);
        if (folder != null && !folder.isDirectory()) {
            throw new WorkFailed("folder '" + folder + "' is not there (from " + here() + ")", Failure.UNKNOWN);
        }
        builder.directory(folder);
        Map<String, String> texts = new LinkedHashMap<>();
        program.command().forEach(argument -> texts.put("argument " + texts.size(), argument));
        program.environment().forEach((name, value) -> texts.put("variable " + name, value));
        facts.variables().forEach((name, value) -> texts.put("variable " + name, value));
        checkEncodable(texts);
        ProgramEnvironment.withoutDatabase(builder.environment());
        traces.forEach((field, value) -> builder.environment().put(field.toUpperCase(Locale.ROOT), value));
        builder.environment().putAll(program.environment());
        facts.setIn(builder.environment());
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

    /** The places where a program may be: the runtime's own message differs between versions, so this class looks itself. */
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
}
