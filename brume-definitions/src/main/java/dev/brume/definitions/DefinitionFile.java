package dev.brume.definitions;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.document.DocumentProblem;
import dev.brume.document.Fields;
import dev.brume.document.JobDocument;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The jobs of a file.
 *
 * @param source names the file in the store, so that jobs dropped from it can be noticed: its own {@code
 *     source:}, else the file's name without folders
 * @param jobs in the order of the file
 */
public record DefinitionFile(String source, List<Job> jobs) {
    private static final List<String> KEYS = List.of("source", "namespace", "zone", "jobs");
    private static final long LARGEST = 64L * 1024 * 1024;

    /**
     * Reads a file.
     *
     * @throws DefinitionsException if it cannot be read or anything in it is wrong; all of it is reported
     */
    public static DefinitionFile read(Path file) {
        String name = file.toString();
        try {
            if (Files.isDirectory(file)) {
                throw problem(name, "is a folder (expected a YAML or JSON file)");
            }
            if (Files.size(file) > LARGEST) {
                throw problem(name, "is larger than " + LARGEST + " bytes");
            }
            return parse(name, file.getFileName().toString(), decode(name, Files.readAllBytes(file)));
        } catch (java.nio.file.NoSuchFileException e) {
            throw problem(name, "there is no such file");
        } catch (IOException e) {
            throw problem(name, "cannot be read: " + e.getMessage());
        }
    }

    private static String decode(String name, byte[] bytes) {
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(bytes))
                    .toString();
        } catch (CharacterCodingException e) {
            throw problem(name, "is not UTF-8");
        }
    }

    private static DefinitionsException problem(String name, String message) {
        return new DefinitionsException(List.of(new DefinitionProblem(name, 1, 1, message)));
    }

    /**
     * Reads a text.
     *
     * @param file its name, for messages
     * @param source its source unless it names one
     * @throws DefinitionsException if anything in it is wrong; all of it is reported
     */
    public static DefinitionFile parse(String file, String source, String text) {
        LocatedDocument document = LocatedDocument.read(file, text);
        List<DefinitionProblem> problems = new ArrayList<>(document.problems());
        List<DocumentProblem> found = new ArrayList<>();
        Optional<DefinitionFile> read = document.root() == null
                ? Optional.empty()
                : Fields.open("", document.root(), KEYS, found).map(fields -> read(fields, source, found));
        found.forEach(problem -> problems.add(document.locate(problem)));
        if (!problems.isEmpty() || read.isEmpty()) {
            problems.sort(Comparator.comparingInt(DefinitionProblem::line).thenComparingInt(DefinitionProblem::column));
            throw new DefinitionsException(problems);
        }
        return read.get();
    }

    private static DefinitionFile read(Fields file, String fallback, List<DocumentProblem> problems) {
        String source = file.text("source").orElse(fallback);
        String namespace = file.text("namespace").orElse(JobKey.MAIN);
        if (!JobKey.isName(namespace)) {
            file.note("namespace", "'" + namespace + "' is not a name (expected " + JobKey.RULE + ")");
        }
        Optional<ZoneId> zone = file.text("zone").flatMap(name -> file.read("zone", () -> Zones.parse(name)));
        // A zone that is wrong is reported once, not again at each job that inherits it.
        Optional<ZoneId> inherited = file.has("zone") && zone.isEmpty() ? Optional.of(ZoneId.of("UTC")) : zone;
        List<Job> jobs = new ArrayList<>();
        Object documents = file.raw("jobs").orElse(null);
        if (documents == null) {
            file.noteHere("defines no jobs (add jobs: with a mapping of names to jobs)");
        } else if (documents instanceof Map<?, ?> map) {
            map.forEach((name, job) -> readJob(file, namespace, (String) name, job, inherited, problems)
                    .ifPresent(jobs::add));
        } else {
            file.note("jobs", "expected a mapping of names to jobs");
        }
        return new DefinitionFile(source, List.copyOf(jobs));
    }

    private static Optional<Job> readJob(
            Fields file,
            String namespace,
            String name,
            Object document,
            Optional<ZoneId> zone,
            List<DocumentProblem> problems) {
        String path = Fields.join(file.path("jobs"), name);
        boolean named = JobKey.isName(name);
        if (!named) {
            problems.add(new DocumentProblem(
                    path, /* atKey= */ true, 0, "'" + name + "' is not a name (expected " + JobKey.RULE + ")"));
        }
        JobKey key = new JobKey(JobKey.isName(namespace) ? namespace : JobKey.MAIN, named ? name : "unnamed");
        return JobDocument.read(key, path, withPayloadAsText(document), zone, problems)
                .filter(job -> named);
    }

    /** A payload may be written as YAML; it is kept as JSON text. */
    private static Object withPayloadAsText(Object document) {
        if (!(document instanceof Map<?, ?> map)
                || !map.containsKey("payload")
                || map.get("payload") instanceof String) {
            return document;
        }
        Map<Object, Object> copy = new LinkedHashMap<>(map);
        copy.computeIfPresent("payload", (key, payload) -> json(payload));
        return copy;
    }

    private static String json(Object value) {
        try {
            return JSON.std.asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Returns the JSON Schema of definition files. */
    public static String schema() {
        try (InputStream stream = DefinitionFile.class.getResourceAsStream("definitions.schema.json")) {
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
