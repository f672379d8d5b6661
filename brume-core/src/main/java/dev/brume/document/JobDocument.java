package dev.brume.document;

import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.Work;
import java.time.Duration;
import java.time.ZoneId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Reads and writes jobs as documents.
 *
 * <p>Stateless and safe for use by many threads.
 */
public final class JobDocument {
    private static final List<String> KEYS = List.of(
            "description",
            "when",
            "work",
            "timeLimit",
            "ifBusy",
            "ifFailed",
            "ifMissed",
            "ifLost",
            "lane",
            "priority",
            "tags",
            "payload",
            "payloadType",
            "enabled",
            "spread",
            "exclusive",
            "limits");
    private static final Map<String, IfLost> LOST = ordered("runAgain", IfLost.RUN_AGAIN, "giveUp", IfLost.GIVE_UP);
    private static final Map<String, IfMissed.Choice> MISSED = ordered(
            "latest", IfMissed.Choice.RUN_LATEST, "each", IfMissed.Choice.RUN_EACH, "none", IfMissed.Choice.SKIP);

    private JobDocument() {}

    /**
     * Reads a job.
     *
     * @param zone the zone of schedules that name none
     * @param problems receives whatever is wrong, all of it
     * @return empty if anything was wrong
     */
    public static Optional<Job> read(
            JobKey key, String path, Object document, Optional<ZoneId> zone, List<DocumentProblem> problems) {
        int before = problems.size();
        Optional<Fields> opened = Fields.open(path, document, KEYS, problems);
        if (opened.isEmpty()) {
            return Optional.empty();
        }
        Fields fields = opened.get();
        Job.Builder job = Job.named(key);
        fields.set("description", fields.text("description"), job::description);
        ScheduleDocument.readAll(fields, zone, problems).forEach(job::schedule);
        readWork(fields).ifPresent(job::work);
        fields.set("timeLimit", fields.duration("timeLimit"), job::timeLimit);
        readIfBusy(fields).ifPresent(job::ifBusy);
        readIfFailed(fields).ifPresent(job::ifFailed);
        readIfMissed(fields).ifPresent(job::ifMissed);
        fields.set("ifLost", fields.word("ifLost", LOST), job::ifLost);
        fields.set("lane", fields.text("lane"), job::lane);
        fields.set("priority", fields.integer("priority"), job::priority);
        fields.set("payloadType", fields.text("payloadType"), job::payloadType);
        fields.set("exclusive", fields.text("exclusive"), job::exclusive);
        fields.texts("limits")
                .ifPresent(limits -> limits.forEach(name -> fields.read("limits", () -> job.limit(name))));
        fields.texts("tags").ifPresent(tags -> tags.forEach(tag -> fields.read("tags", () -> job.tag(tag))));
        fields.set("payload", fields.text("payload"), job::payload);
        fields.set("enabled", fields.flag("enabled"), job::enabled);
        fields.set("spread", fields.duration("spread"), job::spread);
        return problems.size() > before ? Optional.empty() : fields.readHere(job::build);
    }

    private static Optional<Work> readWork(Fields job) {
        if (job.raw("work").isEmpty()) {
            job.noteHere("has no work (add work: with program: [...] or handler: NAME)");
            return Optional.empty();
        }
        return job.mapping("work", List.of("program", "environment", "folder", "handler"))
                .flatMap(work -> {
                    if (work.has("program") == work.has("handler")) {
                        work.noteHere("expected either program: [...] or handler: NAME");
                        return Optional.empty();
                    }
                    if (work.has("handler")) {
                        if (work.has("environment") || work.has("folder")) {
                            work.noteHere("environment: and folder: belong to a program, not to a handler");
                        }
                        return work.text("handler")
                                .flatMap(name -> work.read("handler", () -> new Work.Registered(name)));
                    }
                    Map<String, String> environment = work.textMap("environment");
                    Optional<String> folder = work.text("folder");
                    return work.texts("program")
                            .flatMap(command ->
                                    work.read("program", () -> new Work.Program(command, environment, folder)));
                });
    }

    private static Optional<IfBusy> readIfBusy(Fields job) {
        if (job.raw("ifBusy").filter(Map.class::isInstance).isPresent()) {
            return job.mapping("ifBusy", List.of("wait", "alongside")).flatMap(policy -> {
                if (policy.has("wait") == policy.has("alongside")) {
                    policy.noteHere("expected either wait: N or alongside: N");
                    return Optional.empty();
                }
                String key = policy.has("wait") ? "wait" : "alongside";
                return policy.integer(key)
                        .flatMap(bound -> policy.read(
                                key, () -> key.equals("wait") ? IfBusy.waiting(bound) : IfBusy.alongside(bound)));
            });
        }
        Map<String, IfBusy> words = ordered("skip", IfBusy.skip(), "wait", IfBusy.waiting(1));
        return job.has("ifBusy") ? job.word("ifBusy", words) : Optional.empty();
    }

    private static Optional<IfFailed> readIfFailed(Fields job) {
        return job.mapping("ifFailed", List.of("attempts", "wait", "factor", "cap"))
                .flatMap(policy -> {
                    int attempts = policy.integer("attempts").orElse(1);
                    Duration wait = policy.duration("wait").orElse(Duration.ofSeconds(10));
                    double factor = policy.number("factor").orElse(1.0);
                    Duration cap = policy.duration("cap").orElse(factor > 1 ? max(wait, Duration.ofHours(1)) : wait);
                    return job.read("ifFailed", () -> new IfFailed(attempts, wait, factor, cap));
                });
    }

    private static Duration max(Duration a, Duration b) {
        return a.compareTo(b) > 0 ? a : b;
    }

    private static Optional<IfMissed> readIfMissed(Fields job) {
        return job.mapping("ifMissed", List.of("run", "atMost", "tolerance")).flatMap(policy -> {
            IfMissed.Choice choice = policy.word("run", MISSED).orElse(IfMissed.Choice.RUN_LATEST);
            if (policy.has("atMost") && choice != IfMissed.Choice.RUN_EACH) {
                policy.note("atMost", "belongs to run: each");
            }
            int atMost = policy.integer("atMost").orElse(1);
            Duration tolerance = policy.duration("tolerance").orElse(IfMissed.TOLERANCE);
            return job.read("ifMissed", () -> new IfMissed(choice, atMost, tolerance));
        });
    }

    /** Writes a job as {@link #read} reads it back; what equals its default is left out. */
    public static Map<String, Object> write(Job job) {
        Job plain = Job.named(job.key()).work(job.work()).build();
        Map<String, Object> document = new LinkedHashMap<>();
        if (!job.description().isEmpty()) {
            document.put("description", job.description());
        }
        if (!job.schedules().isEmpty()) {
            document.put(
                    "when",
                    job.schedules().stream().map(ScheduleDocument::write).toList());
        }
        document.put("work", writeWork(job.work()));
        job.timeLimit().ifPresent(limit -> document.put("timeLimit", limit.toString()));
        if (!job.ifBusy().equals(plain.ifBusy())) {
            document.put("ifBusy", writeIfBusy(job.ifBusy()));
        }
        if (!job.ifFailed().equals(plain.ifFailed())) {
            document.put("ifFailed", writeIfFailed(job.ifFailed()));
        }
        if (!job.ifMissed().equals(plain.ifMissed())) {
            document.put("ifMissed", writeIfMissed(job.ifMissed()));
        }
        if (job.ifLost() != plain.ifLost()) {
            document.put("ifLost", nameOf(LOST, job.ifLost()));
        }
        if (!job.lane().equals(plain.lane())) {
            document.put("lane", job.lane());
        }
        if (job.priority() != plain.priority()) {
            document.put("priority", job.priority());
        }
        if (!job.tags().isEmpty()) {
            document.put("tags", job.tags());
        }
        job.payload().ifPresent(payload -> document.put("payload", payload));
        job.payloadType().ifPresent(type -> document.put("payloadType", type));
        job.spread().ifPresent(width -> document.put("spread", width.toString()));
        job.gates(GateKey.Kind.KEY).forEach(key -> document.put("exclusive", key.name()));
        List<String> limits =
                job.gates(GateKey.Kind.LIMIT).stream().map(GateKey::name).toList();
        if (!limits.isEmpty()) {
            document.put("limits", limits);
        }
        if (!job.enabled()) {
            document.put("enabled", false);
        }
        return document;
    }

    private static Map<String, Object> writeWork(Work work) {
        Map<String, Object> document = new LinkedHashMap<>();
        if (work instanceof Work.Program program) {
            document.put("program", program.command());
            if (!program.environment().isEmpty()) {
                document.put("environment", new java.util.TreeMap<>(program.environment()));
            }
            program.folder().ifPresent(folder -> document.put("folder", folder));
        } else if (work instanceof Work.Registered registered) {
            document.put("handler", registered.handler());
        }
        return document;
    }

    private static Object writeIfBusy(IfBusy policy) {
        return switch (policy.choice()) {
            case SKIP -> "skip";
            case WAIT -> Map.of("wait", policy.bound());
            case ALONGSIDE -> Map.of("alongside", policy.bound());
        };
    }

    private static Map<String, Object> writeIfFailed(IfFailed policy) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("attempts", policy.attempts());
        document.put("wait", policy.firstWait().toString());
        document.put("factor", policy.factor());
        document.put("cap", policy.cap().toString());
        return document;
    }

    private static Map<String, Object> writeIfMissed(IfMissed policy) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("run", nameOf(MISSED, policy.choice()));
        if (policy.choice() == IfMissed.Choice.RUN_EACH) {
            document.put("atMost", policy.atMost());
        }
        document.put("tolerance", policy.tolerance().toString());
        return document;
    }

    static <T> String nameOf(Map<String, T> words, T meaning) {
        return words.entrySet().stream()
                .filter(entry -> entry.getValue().equals(meaning))
                .map(Map.Entry::getKey)
                .findFirst()
                .orElseThrow();
    }

    @SuppressWarnings("unchecked")
    static <T> Map<String, T> ordered(Object... namesAndMeanings) {
        Map<String, T> words = new LinkedHashMap<>();
        for (int i = 0; i < namesAndMeanings.length; i += 2) {
            words.put((String) namesAndMeanings[i], (T) namesAndMeanings[i + 1]);
        }
        return words;
    }
}
