package dev.brume.spring;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.JobDocument;
import dev.brume.schedule.Nearest;
import dev.brume.schedule.Zones;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Brings together where an application says when its jobs run: beside handlers, in properties, in files; each job in one place. */
final class StatedJobs {
    private static final String IN_PROPERTIES = "brume.jobs.";

    private final Map<JobName, HandlerBean> handlers;
    private final UnaryOperator<String> resolving;
    private final Optional<ZoneId> zone;
    private final String source;
    private final Map<JobName, String> places = new LinkedHashMap<>();
    private final List<Job> jobs = new ArrayList<>();
    private final List<String> problems = new ArrayList<>();

    /**
     * Begins.
     *
     * @param handlers the beans that handle jobs
     * @param resolving fills placeholders of properties
     */
    StatedJobs(Map<JobName, HandlerBean> handlers, BrumeSettings settings, UnaryOperator<String> resolving) {
        this.handlers = handlers;
        this.resolving = resolving;
        this.source = settings.environment().getProperty("spring.application.name", "application");
        this.zone = settings.text("zone").map(name -> BrumeSettings.read("zone", name, Zones::parse));
    }

    /** Notes that a file defines jobs. */
    void addFile(DefinitionSet set, String file) {
        set.jobs().forEach(job -> claim(job.name(), file));
    }

    private void claim(JobName job, String place) {
        String other = places.putIfAbsent(job, place);
        if (other != null) {
            throw new SetupException(
                    "'" + job + "' is defined twice: " + other + " and " + place,
                    "leave it in one place; where a handler is beside it, @Handles needs the name alone");
        }
    }

    /** Takes what the properties say. */
    void addProperties(Map<String, Map<String, Object>> documents) {
        documents.forEach((name, document) -> {
            String place = IN_PROPERTIES + name;
            try {
                JobName job = JobName.parse(name);
                claim(job, "in the properties " + place);
                if (!document.containsKey("work")) {
                    document.put("work", Map.of("handler", handler(job, place)));
                }
                read(job, document, place);
            } catch (IllegalArgumentException e) {
                problems.add(place + ": " + e.getMessage());
            }
        });
    }

    private String handler(JobName job, String place) {
        if (!handlers.containsKey(job)) {
            List<String> known =
                    handlers.keySet().stream().map(JobName::toString).sorted().toList();
            throw new SetupException(
                    place + " has no work, and no bean handles '" + job + "'",
                    Nearest.to(job.toString(), known)
                                    .map(near -> "did you mean " + near + "? else ")
                                    .orElse(known.isEmpty() ? "" : "handled are " + String.join(", ", known) + "; ")
                            + "mark a method of a bean with @Handles(\"" + job + "\"), or say what its work is");
        }
        return job.toString();
    }

    /** Takes what stands beside handlers. */
    void addHandlers() {
        handlers.forEach((job, bean) -> {
            Map<String, Object> document = document(bean.stated());
            if (!document.isEmpty()) {
                claim(job, "beside " + bean.place());
                document.put("work", Map.of("handler", job.toString()));
                read(job, document, bean.place());
            }
        });
    }

    private Map<String, Object> document(Handles stated) {
        Map<String, Object> document = new LinkedHashMap<>();
        Map<String, Object> when = new LinkedHashMap<>();
        put(when, "cron", stated.cron());
        put(when, "every", stated.every());
        put(when, "zone", stated.zone());
        if (!when.isEmpty()) {
            document.put("when", when);
        }
        put(document, "timeLimit", stated.timeLimit());
        put(document, "ifBusy", stated.ifBusy());
        put(document, "lane", stated.lane());
        put(document, "payload", stated.payload());
        if (!stated.ifMissed().isEmpty()) {
            document.put("ifMissed", Map.of("run", resolving.apply(stated.ifMissed())));
        }
        if (stated.waits().length > 0) {
            document.put(
                    "ifFailed",
                    Map.of("waits", Stream.of(stated.waits()).map(resolving).toList()));
        }
        return document;
    }

    private void put(Map<String, Object> document, String key, String text) {
        String resolved = resolving.apply(text);
        if (!resolved.isEmpty()) {
            document.put(key, resolved);
        }
    }

    private void read(JobName name, Map<String, Object> document, String place) {
        List<DocumentProblem> found = new ArrayList<>();
        JobDocument.read(name, "", document, zone, found).ifPresent(jobs::add);
        found.forEach(problem -> problems.add(place
                + (problem.path().isEmpty() ? "" : "." + problem.path().replace('/', '.'))
                + ": " + problem.message()));
    }

    /**
     * {@return what properties and handlers define}
     *
     * @throws SetupException if anything is wrong with it; all of it is told
     */
    DefinitionSet definitions() {
        if (!problems.isEmpty()) {
            throw new SetupException(String.join("; ", problems), "correct the definitions");
        }
        return DefinitionSet.of(source, jobs);
    }

    /** {@return whether a job is defined in one of the places} */
    boolean defines(JobName job) {
        return places.containsKey(job);
    }

    /** {@return jobs that have a handler and are defined nowhere: they can be ordered} */
    DefinitionSet ordered() {
        List<Job> plain = handlers.keySet().stream()
                .filter(job -> !places.containsKey(job))
                .map(job -> Job.named(job).handler(job.toString()).build())
                .toList();
        return DefinitionSet.of(source, plain).writing(DefinitionSet.Writes.NEW);
    }

    @Override
    public String toString() {
        return places.entrySet().stream()
                .map(entry -> entry.getKey() + " " + entry.getValue())
                .collect(Collectors.joining(", "));
    }
}
