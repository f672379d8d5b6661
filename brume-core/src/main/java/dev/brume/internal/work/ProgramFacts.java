package dev.brume.internal.work;

import dev.brume.spi.LeasedRun;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The facts of a run, as variables of its program's environment.
 *
 * <p>The kernel takes no variable of more than 128 KiB, its name included. A fact that is longer goes by a file that only its owner can read, in
 * UTF-8: {@code BRUME_PAYLOAD_FILE} then names it, and {@code BRUME_PAYLOAD} is not set; likewise {@code BRUME_PARENT_RESULT}. The files are
 * removed at the end. Confined to one thread.
 */
final class ProgramFacts implements AutoCloseable {
    /** Of Linux: name, equals sign, value and NUL, in bytes. */
    private static final int LONGEST = 128 * 1024;

    private static final String FILE = "_FILE";
    private static final Logger LOG = LoggerFactory.getLogger(ProgramFacts.class);

    private final Map<String, String> variables = new HashMap<>();
    private final List<Path> files = new ArrayList<>();

    /**
     * Creates the facts.
     *
     * @param parent those of the run that it follows, empty where it follows none
     * @throws IOException if a file cannot be written
     */
    ProgramFacts(LeasedRun run, Map<String, String> parent, String tree) throws IOException {
        Map<String, String> facts = new HashMap<>();
        facts.put("BRUME_RUN", Long.toString(run.id()));
        facts.put("BRUME_JOB", run.job().name().toString());
        facts.put("BRUME_PLANNED", run.row().owed().planned().toString());
        facts.put("BRUME_ATTEMPT", Integer.toString(run.row().attempt()));
        facts.put("BRUME_FENCE", Long.toString(run.row().lease().orElseThrow().fence()));
        facts.put("BRUME_PAYLOAD", run.row().payload().orElse(""));
        facts.put("BRUME_PARENT", parent.get("parent"));
        facts.put("BRUME_PARENT_JOB", parent.get("parentJob"));
        facts.put("BRUME_PARENT_OUTCOME", parent.get("parentOutcome"));
        facts.put("BRUME_PARENT_RESULT", parent.get("parentResult"));
        facts.put(Supervisor.VARIABLE, tree);
        for (Map.Entry<String, String> fact : facts.entrySet()) {
            add(fact.getKey(), fact.getValue());
        }
    }

    private void add(String name, String value) throws IOException {
        byte[] bytes = value.getBytes(StandardCharsets.UTF_8);
        if (name.length() + 2 + bytes.length <= LONGEST) {
            variables.put(name, value);
            return;
        }
        // Temporary files are their owner's alone wherever the system knows of owners.
        Path file = Files.createTempFile("brume-", "." + name.toLowerCase(Locale.ROOT));
        files.add(file);
        Files.write(file, bytes);
        variables.put(name + FILE, file.toString());
    }

    /** Sets them in an environment; what it had of those names before is gone. */
    void setIn(Map<String, String> environment) {
        for (String name : List.of("BRUME_PAYLOAD", "BRUME_PARENT_RESULT")) {
            environment.remove(name);
            environment.remove(name + FILE);
        }
        environment.putAll(variables);
    }

    Map<String, String> variables() {
        return variables;
    }

    @Override
    public void close() {
        for (Path file : files) {
            try {
                Files.deleteIfExists(file);
            } catch (IOException e) {
                LOG.warn("cannot remove {}: {}", file, e.getMessage());
            }
        }
    }
}
