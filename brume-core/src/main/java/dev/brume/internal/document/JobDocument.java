package dev.brume.internal.document;

import dev.brume.Deadline;
import dev.brume.FailureKinds;
import dev.brume.FollowUp;
import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Mask;
import dev.brume.SharedName;
import dev.brume.Work;
import java.time.Duration;
import java.time.ZoneId;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

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
            "startWithin",
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
            "limits",
            "followUps",
            "requireLabels",
            "onEachInstance",
            "mask",
            "keep",
            "endBy",
            "successWithin");
    private static final Map<String, FollowUp.On> FOLLOWED =
            ordered("success", FollowUp.On.SUCCESS, "failure", FollowUp.On.FAILURE, "end", FollowUp.On.END);
    private static final Map<String, IfLost> LOST = ordered("runAgain", IfLost.RUN_AGAIN, "giveUp", IfLost.GIVE_UP);
    private static final Map<String, IfMissed.Choice> MISSED = ordered(
            "latest", IfMissed.Choice.RUN_LATEST, "each", IfMissed.Choice.RUN_EACH, "none", IfMissed.Choice.SKIP);

    /** The newest format of definitions that this version reads; a later one knows keys or words that this one does not. */
    public static final int FORMAT = 3;

    private static final int WITHOUT_DEADLINES = 2;

    private JobDocument() {}

    /**
     * Reads a job.
     *
     * @param zone the zone of schedules that name none
     * @param problems receives whatever is wrong, all of it
     * @return empty if anything was wrong
     */
    public static Optional<Job> read(
            JobName key, String path, Object document, Optional<ZoneId> zone, List<DocumentProblem> problems) {
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
        fields.set("startWithin", fields.duration("startWithin"), job::startWithin);
        readIfBusy(fields).ifPresent(job::ifBusy);
        readIfFailed(fields).ifPresent(job::ifFailed);
        readIfMissed(fields).ifPresent(job::ifMissed);
        fields.set("ifLost", fields.word("ifLost", LOST), job::ifLost);
        fields.set("lane", fields.text("lane"), job::lane);
        fields.set("priority", fields.integer("priority"), job::priority);
        fields.set("payloadType", fields.text("payloadType"), job::payloadType);
        fields.set("exclusive", fields.text("exclusive"), job::exclusive);
        readFollowUps(fields, job);
        fields.texts("requireLabels")
                .ifPresent(
                        labels -> labels.forEach(name -> fields.read("requireLabels", () -> job.requireLabel(name))));
        fields.flag("onEachInstance").filter(each -> each).ifPresent(each -> job.onEachInstance());
        fields.texts("limits")
                .ifPresent(limits -> limits.forEach(name -> fields.read("limits", () -> job.limit(name))));
        fields.texts("tags").ifPresent(tags -> tags.forEach(tag -> fields.read("tags", () -> job.tag(tag))));
        fields.texts("mask").ifPresent(names -> names.forEach(name -> fields.read("mask", () -> job.mask(name))));
        readKeep(fields).ifPresent(job::keep);
        fields.scalar("endBy")
                .flatMap(text -> fields.read("endBy", () -> Deadline.parse(text)))
                .ifPresent(job::endBy);
        fields.set("successWithin", fields.duration("successWithin"), job::successWithin);
        fields.set("payload", fields.text("payload"), job::payload);
        fields.set("enabled", fields.flag("enabled"), job::enabled);
        fields.set("spread", fields.duration("spread"), job::spread);
        return problems.size() > before ? Optional.empty() : fields.readHere(job::build);
    }

    /** {@return the keys that a job's document may have} */
    public static List<String> keys() {
        return KEYS;
    }

    /** {@return the oldest format whose readers know every key and word of a job's document} */
    public static int format(Job job) {
        if (job.isWatched()) {
            return FORMAT;
        }
        return job.mask().isEmpty() && job.keep().isAll() ? 1 : WITHOUT_DEADLINES;
    }

    private static Optional<Keep> readKeep(Fields fields) {
        if (fields.raw("keep").filter(String.class::isInstance).isPresent()) {
            return fields.duration("keep").flatMap(age -> fields.read("keep", () -> Keep.upTo(age)));
        }
        return fields.mapping("keep", List.of("for", "runs")).flatMap(keep -> {
            Optional<Duration> age = keep.duration("for");
            Optional<Long> runs = keep.integer("runs").map(Integer::longValue);
            if (age.isEmpty() && runs.isEmpty()) {
                keep.noteHere("expected a duration, or for: and runs:, or one of them");
                return Optional.empty();
            }
            return fields.read("keep", () -> {
                Keep bound = age.map(Keep::upTo).orElse(Keep.ALL);
                return runs.map(bound::andNewest).orElse(bound);
            });
        });
    }

    private static Optional<Work> readWork(Fields job) {
        if (job.raw("work").isEmpty()) {
            job.noteHere("has no work (add work: with program: [...], handler: NAME or http: {url: ...})");
            return Optional.empty();
        }
        return job.mapping("work", List.of("program", "environment", "folder", "handler", "http"))
                .flatMap(work -> {
                    long kinds = Stream.of("program", "handler", "http")
                            .filter(work::has)
                            .count();
                    if (kinds != 1) {
                        work.noteHere("expected one of program: [...], handler: NAME and http: {url: ...}");
                        return Optional.empty();
                    }
                    if (!work.has("program") && (work.has("environment") || work.has("folder"))) {
                        work.noteHere("environment: and folder: belong to a program");
                    }
                    if (work.has("http")) {
                        return readRequest(work);
                    }
                    if (work.has("handler")) {
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

    private static Optional<Work> readRequest(Fields work) {
        return work.mapping("http", List.of("method", "url", "headers", "body", "expect"))
                .flatMap(http -> {
                    Optional<String> body = http.text("body");
                    String method = http.text("method").orElse(body.isPresent() ? "POST" : "GET");
                    Map<String, String> headers = http.textMap("headers");
                    Set<Integer> expected = http.numbers("expect", 100, 599).orElse(Set.of());
                    if (!http.has("url")) {
                        http.noteHere("has no url");
                        return Optional.empty();
                    }
                    return http.text("url")
                            .flatMap(
                                    url -> http.readHere(() -> new Work.Request(method, url, headers, body, expected)));
                });
    }

    private static void readFollowUps(Fields job, Job.Builder builder) {
        job.mapping("followUps", List.copyOf(FOLLOWED.keySet()))
                .ifPresent(kinds -> FOLLOWED.forEach((word, on) -> kinds.texts(word)
                        .ifPresent(targets ->
                                targets.forEach(target -> kinds.read(word, () -> builder.followUp(on, target))))));
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
        Map<String, IfBusy> words =
                ordered("skip", IfBusy.skip(), "wait", IfBusy.waiting(1), "supersede", IfBusy.supersede());
        return job.has("ifBusy") ? job.word("ifBusy", words) : Optional.empty();
    }

    private static Optional<IfFailed> readIfFailed(Fields job) {
        return job.mapping(
                        "ifFailed",
                        List.of("attempts", "wait", "factor", "cap", "waits", "jitter", "giveUpOn", "retryOn"))
                .flatMap(policy -> {
                    List<Duration> waits = policy.durations("waits").orElse(List.of());
                    if (!waits.isEmpty()) {
                        Stream.of("wait", "factor", "cap")
                                .filter(policy::has)
                                .forEach(key -> policy.note(key, "does not go together with waits"));
                    }
                    int attempts = policy.integer("attempts").orElse(waits.size() + 1);
                    Duration usual = waits.isEmpty() ? Duration.ofSeconds(10) : Duration.ZERO;
                    Duration wait = policy.duration("wait").orElse(usual);
                    double factor = policy.number("factor").orElse(1.0);
                    Duration cap = policy.duration("cap").orElse(factor > 1 ? max(wait, Duration.ofHours(1)) : wait);
                    double jitter = policy.number("jitter").orElse(0.0);
                    FailureKinds giveUpOn = readKinds(policy, "giveUpOn");
                    FailureKinds retryOn = readKinds(policy, "retryOn");
                    return job.read(
                            "ifFailed",
                            () -> (waits.isEmpty() ? IfFailed.attempts(attempts, wait) : IfFailed.waits(waits))
                                    .factor(factor)
                                    .cap(cap)
                                    .jitter(jitter)
                                    .giveUpOn(giveUpOn)
                                    .retryOn(retryOn));
                });
    }

    private static FailureKinds readKinds(Fields policy, String key) {
        return policy.mapping(key, List.of("errors", "exitCodes", "statuses"))
                .map(list -> FailureKinds.NONE
                        .andErrors(Set.copyOf(list.texts("errors").orElse(List.of())))
                        .andExitCodes(list.numbers("exitCodes", 1, 255).orElse(Set.of()))
                        .andStatuses(list.numbers("statuses", 100, 599).orElse(Set.of())))
                .orElse(FailureKinds.NONE);
    }

    private static Duration max(Duration a, Duration b) {
        return a.compareTo(b) > 0 ? a : b;
    }

    private static Optional<IfMissed> readIfMissed(Fields job) {
        return job.mapping("ifMissed", List.of("run", "atMost", "tolerance", "oldest"))
                .flatMap(policy -> {
                    IfMissed.Choice choice = policy.word("run", MISSED).orElse(IfMissed.Choice.RUN_LATEST);
                    if (policy.has("atMost") && choice != IfMissed.Choice.RUN_EACH) {
                        policy.note("atMost", "belongs to run: each");
                    }
                    int atMost = policy.integer("atMost").orElse(1);
                    Duration tolerance = policy.duration("tolerance").orElse(IfMissed.TOLERANCE);
                    Optional<Duration> oldest = policy.duration("oldest");
                    if (policy.has("oldest") && choice == IfMissed.Choice.SKIP) {
                        policy.note("oldest", "belongs to run: latest or run: each");
                    }
                    return job.read("ifMissed", () -> {
                        IfMissed chosen = switch (choice) {
                            case RUN_LATEST -> IfMissed.runLatest();
                            case RUN_EACH -> IfMissed.runEach(atMost);
                            case SKIP -> IfMissed.skip();
                        };
                        IfMissed bounded = chosen.tolerance(tolerance);
                        return oldest.map(bounded::oldest).orElse(bounded);
                    });
                });
    }

    /** Writes a job as {@link #read} reads it back; what equals its default is left out. */
    public static Map<String, Object> write(Job job) {
        Job plain = Job.named(job.name()).work(job.work()).build();
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
        job.startWithin().ifPresent(limit -> document.put("startWithin", limit.toString()));
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
        job.gates(GateKey.Kind.EXCLUSIVE).forEach(key -> document.put("exclusive", shared(job, key)));
        List<String> limits = job.gates(GateKey.Kind.LIMIT).stream()
                .map(key -> shared(job, key))
                .toList();
        if (!limits.isEmpty()) {
            document.put("limits", limits);
        }
        writeFollowUps(job, document);
        putUnlessEmpty(document, "requireLabels", job.requireLabels());
        if (job.onEachInstance()) {
            document.put("onEachInstance", true);
        }
        putUnlessEmpty(document, "mask", job.mask());
        if (!job.keep().isAll()) {
            document.put("keep", writeKeep(job.keep()));
        }
        job.endBy().ifPresent(deadline -> document.put("endBy", deadline.toString()));
        job.successWithin().ifPresent(length -> document.put("successWithin", length.toString()));
        if (!job.enabled()) {
            document.put("enabled", false);
        }
        return document;
    }

    /** Writes a job for people to see: as {@link #write} does, without what its mask hides in its payload. */
    public static Map<String, Object> shown(Job job) {
        Map<String, Object> document = write(job);
        document.computeIfPresent("payload", (key, payload) -> Mask.of(job).apply((String) payload));
        return document;
    }

    private static String shared(Job job, GateKey key) {
        return SharedName.from(job.name().namespace(), key.name());
    }

    private static void writeFollowUps(Job job, Map<String, Object> document) {
        Map<String, Object> kinds = new LinkedHashMap<>();
        FOLLOWED.forEach((word, on) -> putUnlessEmpty(
                kinds,
                word,
                job.followUps().stream()
                        .filter(followUp -> followUp.on() == on)
                        .map(FollowUp::job)
                        .map(target -> target.namespace() + "/" + target.name())
                        .toList()));
        if (!kinds.isEmpty()) {
            document.put("followUps", kinds);
        }
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
        } else if (work instanceof Work.Request request) {
            document.put("http", writeRequest(request));
        }
        return document;
    }

    private static Map<String, Object> writeRequest(Work.Request request) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("method", request.method());
        document.put("url", request.url());
        if (!request.headers().isEmpty()) {
            document.put("headers", request.headers());
        }
        request.body().ifPresent(body -> document.put("body", body));
        putUnlessEmpty(document, "expect", request.expected());
        return document;
    }

    private static Map<String, Object> writeKeep(Keep keep) {
        Map<String, Object> document = new LinkedHashMap<>();
        keep.age().ifPresent(age -> document.put("for", age.toString()));
        keep.runs().ifPresent(runs -> document.put("runs", runs));
        return document;
    }

    private static Object writeIfBusy(IfBusy policy) {
        return switch (policy.choice()) {
            case SKIP -> "skip";
            case WAIT -> Map.of("wait", policy.bound());
            case ALONGSIDE -> Map.of("alongside", policy.bound());
            case SUPERSEDE -> "supersede";
        };
    }

    private static Map<String, Object> writeIfFailed(IfFailed policy) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("attempts", policy.attempts());
        if (policy.waits().isEmpty()) {
            document.put("wait", policy.firstWait().toString());
            document.put("factor", policy.factor());
            document.put("cap", policy.cap().toString());
        } else {
            document.put(
                    "waits", policy.waits().stream().map(Duration::toString).toList());
        }
        if (policy.jitter() > 0) {
            document.put("jitter", policy.jitter());
        }
        writeKinds(document, "giveUpOn", policy.giveUpOn());
        writeKinds(document, "retryOn", policy.retryOn());
        return document;
    }

    private static void writeKinds(Map<String, Object> document, String key, FailureKinds kinds) {
        Map<String, Object> list = new LinkedHashMap<>();
        putUnlessEmpty(list, "errors", kinds.errors());
        putUnlessEmpty(list, "exitCodes", kinds.exitCodes());
        putUnlessEmpty(list, "statuses", kinds.statuses());
        if (!list.isEmpty()) {
            document.put(key, list);
        }
    }

    private static void putUnlessEmpty(Map<String, Object> document, String key, Collection<?> values) {
        if (!values.isEmpty()) {
            document.put(key, List.copyOf(values));
        }
    }

    private static Map<String, Object> writeIfMissed(IfMissed policy) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("run", nameOf(MISSED, policy.choice()));
        if (policy.choice() == IfMissed.Choice.RUN_EACH) {
            document.put("atMost", policy.atMost());
        }
        document.put("tolerance", policy.tolerance().toString());
        policy.oldest().ifPresent(age -> document.put("oldest", age.toString()));
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
