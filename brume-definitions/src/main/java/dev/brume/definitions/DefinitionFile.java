package dev.brume.definitions;

import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Rate;
import dev.brume.SharedName;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.Fields;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.TellingDocument;
import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeSet;

/**
 * The jobs and calendars of a file.
 *
 * @param source names the file in the store, so that jobs dropped from it can be noticed: its own {@code
 *     source:}, else the file's name without folders
 * @param revision a number that rises with every edit, if the file states one
 * @param namespace of all that it defines, but for what is the cluster's
 * @param jobs in the order of the file, with the calendars of the file; names it does not define stay missing
 * @param calendars in the order of the file
 * @param limits how many runs at once, by name in full
 * @param rates how many may begin in a time, of those limits that say so
 * @param telling its channels and rules of notices
 * @param lines where each job stands, counted from 1
 * @param noticeLines where each channel and each rule of notices stands, by {@code channels/NAME} and {@code notices/NAME}
 * @param warnings what in the files that it names was not understood
 * @since 0.1.0
 */
public record DefinitionFile(
        String source,
        OptionalLong revision,
        String namespace,
        List<Job> jobs,
        Map<CalendarName, DayCalendar> calendars,
        Map<String, Integer> limits,
        Map<String, Rate> rates,
        Telling telling,
        Map<JobName, Integer> lines,
        Map<String, Integer> noticeLines,
        List<FileWarning> warnings) {
    private static final List<String> KEYS =
            List.of("source", "revision", "namespace", "zone", "calendars", "limits", "jobs", "channels", "notices");
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
            Path whole = file.toAbsolutePath();
            Path folder = Objects.requireNonNull(whole.getParent(), "a file is in some folder");
            return parse(
                    name, whole.getFileName().toString(), decode(name, Files.readAllBytes(file)), Optional.of(folder));
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
        return new DefinitionsException(List.of(new DefinitionProblem(name, 1, 1, "", message)));
    }

    /**
     * Reads a text.
     *
     * @param file its name, for messages
     * @param source its source unless it names one
     * @throws DefinitionsException if anything in it is wrong; all of it is reported
     */
    public static DefinitionFile parse(String file, String source, String text) {
        return parse(file, source, text, Optional.of(Path.of("")));
    }

    /**
     * Reads a text that came from elsewhere and may name no files of this machine: the days of its calendars stand in it.
     *
     * @see #parse
     */
    public static DefinitionFile parseAlone(String file, String source, String text) {
        return parse(file, source, text, Optional.empty());
    }

    /**
     * Reads a single job, as it stands under its name in a file; the calendars that it goes by stay missing.
     *
     * @param file a name for messages
     * @throws DefinitionsException if anything in it is wrong; all of it is reported
     */
    public static Job parseJob(String file, JobName name, String text) {
        LocatedDocument document = LocatedDocument.read(file, text);
        List<DocumentProblem> found = new ArrayList<>();
        Optional<Job> job = document.root()
                .flatMap(root ->
                        JobDocument.read(name, "", DefinitionReader.withPayloadAsText(root), Optional.empty(), found));
        throwIfAny(document, found);
        return job.orElseThrow();
    }

    private static void throwIfAny(LocatedDocument document, List<DocumentProblem> found) {
        List<DefinitionProblem> problems = new ArrayList<>(document.problems());
        found.forEach(problem -> problems.add(document.locate(problem)));
        if (!problems.isEmpty()) {
            problems.sort(Comparator.comparingInt(DefinitionProblem::line).thenComparingInt(DefinitionProblem::column));
            throw new DefinitionsException(problems);
        }
    }

    private static DefinitionFile parse(String file, String source, String text, Optional<Path> folder) {
        LocatedDocument document = LocatedDocument.read(file, text);
        List<DocumentProblem> found = new ArrayList<>();
        Optional<DefinitionFile> read = document.root()
                .flatMap(root -> Fields.open("", root, KEYS, found))
                .map(fields -> new DefinitionReader(fields, document, folder, found).read(source));
        throwIfAny(document, found);
        return read.orElseThrow();
    }

    /** {@return the file's definitions, to be put in force together} */
    public DefinitionSet definitions() {
        DefinitionSet set = DefinitionSet.of(source, jobs)
                .within(namespace)
                .withCalendars(calendars)
                .withLimits(limits)
                .withRates(rates)
                .withTelling(telling);
        return revision.isPresent() ? set.withRevision(revision.getAsLong()) : set;
    }

    /** {@return the same as a document that stands alone: it names no files, since the days of its calendars stand in it} */
    public Map<String, Object> document() {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("source", source);
        revision.ifPresent(number -> document.put("revision", number));
        document.put("namespace", namespace);
        if (!calendars.isEmpty()) {
            Map<String, Object> days = new LinkedHashMap<>();
            calendars.forEach((name, calendar) -> days.put(name.reference(), CalendarDocument.write(calendar)));
            document.put("calendars", days);
        }
        TreeSet<String> named = new TreeSet<>(limits.keySet());
        named.addAll(rates.keySet());
        if (!named.isEmpty()) {
            Map<String, Object> bounds = new LinkedHashMap<>();
            named.forEach(name -> bounds.put(SharedName.from(namespace, name), limit(name)));
            document.put("limits", bounds);
        }
        Map<String, Object> definitions = new LinkedHashMap<>();
        jobs.forEach(job -> definitions.put(job.name().name(), JobDocument.write(job)));
        document.put("jobs", definitions);
        if (!telling.isEmpty()) {
            document.putAll(TellingDocument.write(telling));
        }
        return document;
    }

    private Object limit(String name) {
        Map<String, Object> bounds = new LinkedHashMap<>();
        Optional.ofNullable(limits.get(name)).ifPresent(places -> bounds.put("places", places));
        Optional.ofNullable(rates.get(name)).ifPresent(rate -> {
            bounds.put("starts", rate.starts());
            bounds.put("per", Durations.format(rate.per()));
        });
        return rates.containsKey(name) ? bounds : bounds.get("places");
    }

    /** {@return the JSON Schema of definition files} */
    public static String schema() {
        try (InputStream stream = DefinitionFile.class.getResourceAsStream("definitions.schema.json")) {
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
