package dev.brume.definitions;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Rate;
import dev.brume.SharedName;
import dev.brume.ical.CalendarDays;
import dev.brume.ical.CalendarFile;
import dev.brume.internal.decide.FollowUpCycle;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.ChannelDocument;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.Fields;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.NoticeRuleDocument;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.SortedSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Reads the top of a definition file: its namespace and zone, its calendars, its jobs. Confined to one thread. */
final class DefinitionReader {
    private final Fields file;
    private final LocatedDocument document;
    private final Optional<Path> folder;
    private final List<DocumentProblem> problems;
    private final Optional<ZoneId> zone;
    private final String namespace;
    private final Map<CalendarName, DayCalendar> calendars = new LinkedHashMap<>();
    private final Map<String, Integer> limits = new LinkedHashMap<>();
    private final Map<String, Rate> rates = new LinkedHashMap<>();
    private final List<Job> jobs = new ArrayList<>();
    private final Map<JobName, Integer> lines = new LinkedHashMap<>();
    private final List<Channel> channels = new ArrayList<>();
    private final List<NoticeRule> rules = new ArrayList<>();
    private final Map<String, Integer> noticeLines = new LinkedHashMap<>();
    private final List<FileWarning> warnings = new ArrayList<>();

    DefinitionReader(Fields file, LocatedDocument document, Optional<Path> folder, List<DocumentProblem> problems) {
        this.file = file;
        this.document = document;
        this.folder = folder;
        this.problems = problems;
        String named = file.text("namespace").orElse(JobName.MAIN);
        if (!JobName.isName(named)) {
            file.note("namespace", "'" + named + "' is not a name (expected " + JobName.RULE + ")");
        }
        this.namespace = JobName.isName(named) ? named : JobName.MAIN;
        Optional<ZoneId> own = file.text("zone").flatMap(name -> file.read("zone", () -> Zones.parse(name)));
        // A zone that is wrong is reported once, not again at each job that inherits it.
        this.zone = file.has("zone") && own.isEmpty() ? Optional.of(ZoneId.of("UTC")) : own;
    }

    DefinitionFile read(String fallback) {
        String source = file.text("source").orElse(fallback);
        if (file.raw("calendars").isPresent()) {
            named("calendars", "calendars", /* shared= */ true, this::readCalendar);
        }
        if (file.raw("jobs").isPresent()) {
            named("jobs", "jobs", /* shared= */ false, this::readJob);
        } else if (Stream.of("calendars", "limits", "channels", "notices").noneMatch(file::has)) {
            file.noteHere("defines no jobs (add jobs: with a mapping of names to jobs)");
        }
        if (file.raw("limits").isPresent()) {
            named("limits", "numbers", /* shared= */ true, this::readLimit);
        }
        if (file.raw("channels").isPresent()) {
            named("channels", "channels", /* shared= */ true, this::readChannel);
        }
        if (file.raw("notices").isPresent()) {
            named("notices", "rules", /* shared= */ true, this::readRule);
        }
        checkFollowUps();
        return new DefinitionFile(
                source,
                revision(),
                namespace,
                List.copyOf(jobs),
                calendars,
                limits,
                rates,
                telling(),
                lines,
                noticeLines,
                List.copyOf(warnings));
    }

    /** A ring within the file; one that goes through jobs from elsewhere is found when it is put in force. */
    private void checkFollowUps() {
        Map<JobName, List<JobName>> edges = new LinkedHashMap<>();
        jobs.forEach(job -> edges.put(
                job.name(), job.followUps().stream().map(FollowUp::job).toList()));
        FollowUpCycle.find(edges.keySet(), edges).ifPresent(ring -> {
            JobName first = JobName.parse(ring.substring(0, ring.indexOf(' ')));
            problems.add(new DocumentProblem(
                    Fields.join(Fields.join(file.path("jobs"), first.name()), "followUps"),
                    /* atKey= */ true,
                    0,
                    ring + " would never end"));
        });
    }

    private OptionalLong revision() {
        Optional<Integer> number = file.integer("revision");
        if (number.filter(given -> given < 0).isPresent()) {
            file.note("revision", number.get() + " is below 0");
        }
        return number.stream().mapToLong(Integer::longValue).findFirst();
    }

    /** A number of runs at once, or a mapping that says how many may begin in a time. */
    private void readLimit(String path, String name, Object content) {
        String full = SharedName.in(namespace, name, "limits");
        if (content instanceof Map<?, ?>) {
            Fields.open(path, content, List.of("places", "starts", "per"), problems)
                    .ifPresent(limit -> readRate(full, limit));
        } else if (content instanceof Integer places && places >= 1 && places <= DefinitionSet.HIGHEST_LIMIT) {
            limits.put(full, places);
        } else {
            problems.add(new DocumentProblem(
                    path,
                    /* atKey= */ false,
                    0,
                    "'" + content + "' is not a number of runs at once (expected 1 to " + DefinitionSet.HIGHEST_LIMIT
                            + ", or {starts: N, per: 1m} for so many that begin in a time)"));
        }
    }

    private void readRate(String name, Fields limit) {
        limit.integer("places").ifPresent(places -> {
            if (places < 1 || places > DefinitionSet.HIGHEST_LIMIT) {
                limit.note("places", places + " is outside 1 to " + DefinitionSet.HIGHEST_LIMIT);
            }
            limits.put(name, places);
        });
        Optional<Integer> starts = limit.integer("starts");
        Optional<Duration> per = limit.duration("per");
        if (!limit.has("starts") || !limit.has("per")) {
            limit.noteHere("lacks " + (limit.has("starts") ? "per" : "starts")
                    + " (expected {starts: N, per: 1m}, and places: N beside it if runs at once are limited too)");
        } else if (starts.isPresent() && per.isPresent()) {
            limit.read("per", () -> new Rate(1, per.get()))
                    .flatMap(one -> limit.read("starts", () -> new Rate(starts.get(), one.per())))
                    .ifPresent(rate -> rates.put(name, rate));
        }
    }

    private void readChannel(String path, String name, Object content) {
        ChannelDocument.read(SharedName.in(namespace, name, "channels"), namespace, path, content, zone, problems)
                .ifPresent(channel -> {
                    channels.add(channel);
                    noticeLines.put("channels/" + channel.name(), document.lineOf(path));
                });
    }

    private void readRule(String path, String name, Object content) {
        NoticeRuleDocument.read(SharedName.in(namespace, name, "notices"), path, content, problems)
                .ifPresent(rule -> {
                    rules.add(rule);
                    noticeLines.put("notices/" + rule.name(), document.lineOf(path));
                });
    }

    /** What is wrong with the whole is told at the rules. */
    private Telling telling() {
        return file.read("notices", () -> new Telling(channels, rules)).orElse(Telling.NOTHING);
    }

    private interface Step {
        void read(String path, String name, Object content);
    }

    /** Names of what jobs share may be the cluster's. */
    private void named(String key, String things, boolean shared, Step step) {
        if (!(file.raw(key).orElseThrow() instanceof Map<?, ?> map)) {
            file.note(key, "expected a mapping of names to " + things);
            return;
        }
        map.forEach((name, content) -> {
            String path = Fields.join(file.path(key), name);
            boolean usable = shared ? CalendarName.isReference((String) name) : JobName.isName((String) name);
            if (!usable) {
                problems.add(new DocumentProblem(
                        path,
                        /* atKey= */ true,
                        0,
                        "'" + name + "' is not a name (expected "
                                + (shared ? "NAME, or /NAME for the whole cluster's; a name is " : "") + JobName.RULE
                                + ")"));
            }
            step.read(path, usable ? (String) name : "unnamed", content);
        });
    }

    private void readCalendar(String path, String name, Object content) {
        CalendarDocument.read(name, path, content, other -> days(path, other), problems)
                .ifPresent(days -> calendars.put(CalendarName.in(namespace, name), days));
    }

    private SortedSet<LocalDate> days(String place, String name) {
        Path path = folder.map(base -> base.resolve(name))
                .orElseThrow(() -> new IllegalArgumentException("file '" + name
                        + "' cannot be read from here (expected the days themselves, as weekly: or dates:)"));
        try {
            CalendarDays read = CalendarFile.read(path, zone.orElse(ZoneId.of("UTC")));
            read.warnings()
                    .forEach(warning ->
                            warnings.add(new FileWarning(document.lineOf(place), "'" + path + "': " + warning)));
            return read.days();
        } catch (NoSuchFileException e) {
            throw new IllegalArgumentException("there is no file '" + path + "'", e);
        } catch (IOException e) {
            throw new IllegalArgumentException("'" + path + "' cannot be read: " + e.getMessage(), e);
        } catch (ScheduleSyntaxException e) {
            String all = e.problems().stream()
                    .map(ScheduleProblem::sentenceWithoutField)
                    .collect(Collectors.joining("; "));
            throw new IllegalArgumentException("'" + path + "': " + all, e);
        }
    }

    private void readJob(String path, String name, Object content) {
        JobName key = new JobName(namespace, name);
        Map<String, DayCalendar> known = new LinkedHashMap<>();
        calendars.forEach((calendar, days) -> known.put(calendar.reference(), days));
        JobDocument.read(key, path, withPayloadAsText(content), zone, problems).ifPresent(job -> {
            jobs.add(job.withCalendars(known));
            lines.put(key, document.lineOf(path));
        });
    }

    /** A payload may be written as YAML; it is kept as JSON text. */
    static Object withPayloadAsText(Object document) {
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
}
