package dev.brume.http.internal.draft;

import dev.brume.Allowance;
import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionProblem;
import dev.brume.definitions.DefinitionsException;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Views;
import dev.brume.definitions.YamlText;
import dev.brume.definitions.phrase.Pattern;
import dev.brume.definitions.phrase.Phrase;
import dev.brume.definitions.phrase.PhraseParts;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.NamespaceView;
import dev.brume.http.Caller;
import dev.brume.http.internal.web.FieldError;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.insight.check.Warnings;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;

/**
 * What a definition that somebody is working on comes to: form and document made of each other, what is wrong with it and where, when it would run, what
 * would change, and what somebody else changed meanwhile. Nothing is kept. Confined to one thread.
 */
public final class Draft {
    private static final Duration AHEAD = Duration.ofDays(14);
    private static final String FORM = "/form/";
    private static final String IN_WHEN = "/when";

    /** Stands for a job without a schedule of its own. */
    private static final String NONE = "none";

    /** The members of a form. */
    public static final List<String> FIELDS = JobForm.KEYS;

    private final History history;
    private final Caller caller;
    private final BiFunction<Job, String, List<FieldError>> rules;
    private final String source;
    private final JobName name;
    private final Instant now;
    private final List<Map<String, Object>> problems = new ArrayList<>();
    private String text = "";
    private Map<String, Object> document = new LinkedHashMap<>();
    private Optional<Followed> followed = Optional.empty();
    private Phrase.Reading reading;

    /**
     * Begins.
     *
     * @param rules what refuses names that a definition says; takes where the job stands within what was sent
     * @param source under which it would be put in force
     */
    public Draft(
            History history,
            Caller caller,
            BiFunction<Job, String, List<FieldError>> rules,
            String source,
            JobName name) {
        this.history = history;
        this.caller = caller;
        this.rules = rules;
        this.source = source;
        this.name = name;
        this.now = history.now();
        this.reading = Phrase.read(List.of());
    }

    /** {@return what is said of a draft in a namespace in which the caller may define nothing: nothing of what is there} */
    public static Map<String, Object> elsewhere(Caller caller, String namespace, String document) {
        Set<String> own = caller.namespaces(Role.AUTHOR);
        return Views.object(
                "job", null,
                "document", document,
                "form", Map.of(),
                "besides", List.of(),
                "timing", null,
                "after", null,
                "on", null,
                "definedBy", null,
                "changes", null,
                "seen", null,
                "allowance", null,
                "meanwhile", null,
                "problems",
                        List.of(problem(
                                "namespace",
                                JobName.isName(namespace)
                                        ? "you may define nothing in namespace '" + namespace + "'"
                                                + (own.isEmpty() ? "" : "; choose " + String.join(" or ", own))
                                        : "'" + Param.shortened(namespace) + "' is not a name (expected " + JobName.RULE
                                                + ")")),
                "isGood", false);
    }

    /** {@return the draft, of a job whose name is still to be found} */
    public Draft unnamed(String typed) {
        problems.add(problem(
                "name",
                typed.isEmpty()
                        ? "is missing (expected " + JobName.RULE + ")"
                        : "'" + Param.shortened(typed) + "' is not a name (expected " + JobName.RULE + ")"));
        return this;
    }

    private static Map<String, Object> problem(String field, String message) {
        return Views.object(
                "severity",
                "error",
                "field",
                field,
                "pointer",
                "/" + field,
                "line",
                null,
                "column",
                null,
                "message",
                message);
    }

    private void note(String severity, String pointer, Optional<DefinitionProblem> place, String message) {
        Optional<String> field = pointer.startsWith(FORM)
                ? Optional.of(pointer.substring(FORM.length()))
                : pointer.equals("/name") || pointer.equals("/namespace")
                        ? Optional.of(pointer.substring(1))
                        : JobForm.field(pointer);
        problems.add(Views.object(
                "severity",
                severity,
                "field",
                field,
                "pointer",
                pointer,
                "line",
                place.map(DefinitionProblem::line),
                "column",
                place.map(DefinitionProblem::column),
                "message",
                message));
    }

    private void wrong(String pointer, String message) {
        note("error", pointer, Optional.empty(), message);
    }

    private void surprising(String pointer, String message) {
        note("warning", pointer, Optional.empty(), message);
    }

    /**
     * {@return what it comes to}
     *
     * @param written the document as it stands; empty for a new one
     * @param form what was filled in since; empty if the document itself was written on
     * @param seen the version that was seen when it was begun; empty for a new job
     */
    public Map<String, Object> view(String written, Optional<Fields> form, Optional<Seen> seen) {
        text = written;
        Optional<JobView> there = history.job(name);
        if (seen.isEmpty() && there.isPresent()) {
            wrong("/name", "there is a job '" + name + "' already");
        }
        read(form);
        Optional<Job> job = parsed();
        Map<String, Object> view = new LinkedHashMap<>(Views.object(
                "job", name,
                "document", text,
                "form", form()));
        Optional<NamespaceView> space = history.namespaces().stream()
                .filter(each -> each.name().equals(name.namespace()))
                .findFirst();
        Optional<DefinitionDiff> diff = job.map(defined -> against(defined, space));
        view.putAll(Views.object(
                "besides", JobForm.besides(document),
                "timing", whenAlone().map(alone -> WhenView.of(NamedDays.in(alone, history), reading, now)),
                "after", followed.flatMap(Followed::job),
                "on", followed.map(other -> other.on().name().toLowerCase(Locale.ROOT)),
                "definedBy", there.map(stored -> stored.row().source()).filter(other -> !other.equals(source)),
                "changes",
                        diff.map(compared -> compared.jobs().stream()
                                .map(InsightViews::difference)
                                .toList()),
                "seen", seen.map(Seen::tag),
                "allowance",
                        space.flatMap(NamespaceView::allowance)
                                .map(row -> row.allowance().toString()),
                "meanwhile", seen.flatMap(version -> new Meanwhile(history, name, version).view(there, job)),
                "problems", problems,
                "isGood", problems.stream().noneMatch(problem -> "error".equals(problem.get("severity")))));
        return view;
    }

    // Form and document.

    private void read(Optional<Fields> form) {
        try {
            document = YamlText.read("document", text);
        } catch (DefinitionsException e) {
            e.problems().forEach(problem -> note("error", problem.pointer(), Optional.of(problem), problem.message()));
            return;
        }
        reading = readWhen();
        form.ifPresent(this::apply);
    }

    private Phrase.Reading readWhen() {
        Optional<Job> alone = whenAlone();
        if (alone.isEmpty()) {
            return Phrase.Reading.none("what the document says of it has mistakes");
        }
        List<Schedule> schedules = alone.get().schedules();
        return schedules.isEmpty() ? follows() : Phrase.read(schedules);
    }

    /** The job as far as it says when, whatever is wrong with the rest of it. */
    private Optional<Job> whenAlone() {
        Map<String, Object> plain = new LinkedHashMap<>();
        plain.put("work", Map.of("handler", "any"));
        for (String key : List.of(JobForm.WHEN, "spread")) {
            Optional.ofNullable(document.get(key)).ifPresent(value -> plain.put(key, value));
        }
        try {
            return Optional.of(DefinitionFile.parseJob("document", name, YamlText.of(plain)));
        } catch (DefinitionsException e) {
            return Optional.empty();
        }
    }

    /** A job without a schedule may run after another one. */
    private Phrase.Reading follows() {
        List<JobView> before = Followed.before(history, name);
        if (before.size() != 1) {
            return before.isEmpty()
                    ? Phrase.read(List.of())
                    : Phrase.Reading.none("it runs after " + before.size() + " other jobs");
        }
        FollowUp followUp = before.get(0).job().followUps().stream()
                .filter(each -> each.job().equals(name))
                .findFirst()
                .orElseThrow();
        return Phrase.Reading.of(Phrase.of(new Pattern.After(before.get(0).name(), followUp.on()), ZoneId.of("UTC")));
    }

    private void apply(Fields form) {
        JobForm.apply(form, document);
        form.raw(JobForm.WHEN).ifPresent(this::applyWhen);
        text = YamlText.of(document);
    }

    private void applyWhen(Object parts) {
        boolean wasAfter = reading.phrase()
                .filter(known -> known.pattern() instanceof Pattern.After)
                .isPresent();
        if (parts instanceof Map<?, ?> map && NONE.equals(map.get("pattern"))) {
            document.remove(JobForm.WHEN);
            reading = Phrase.read(List.of());
            followed = wasAfter ? Optional.of(Followed.NONE) : Optional.empty();
            return;
        }
        Optional<Phrase> phrase = PhraseParts.read(FORM + JobForm.WHEN, parts, now, this::wrong);
        if (phrase.isEmpty()) {
            return;
        }
        if (phrase.get().pattern() instanceof Pattern.After after) {
            followed = Optional.of(new Followed(Optional.of(after.job()), after.on()));
            document.remove(JobForm.WHEN);
        } else {
            if (!reading.phrase().equals(phrase)) {
                put(phrase.get());
            }
            if (wasAfter) {
                followed = Optional.of(Followed.NONE);
            }
        }
        reading = Phrase.Reading.of(phrase.get());
    }

    /** Comes first among what a job says, behind its description. */
    private void put(Phrase phrase) {
        Object when = when(phrase, name);
        Map<String, Object> ordered = new LinkedHashMap<>();
        Optional.ofNullable(document.get("description")).ifPresent(words -> ordered.put("description", words));
        ordered.put(JobForm.WHEN, when);
        document.forEach((key, value) -> {
            if (!key.equals(JobForm.WHEN)) {
                ordered.put(key, value);
            }
        });
        document = ordered;
    }

    /** {@return what stands under {@code when} in a document for a phrase} */
    static Object when(Phrase phrase, JobName name) {
        Job.Builder job = Job.named(name).handler("any");
        phrase.schedules().forEach(job::schedule);
        return Written.document(job.build()).getOrDefault(JobForm.WHEN, List.of());
    }

    private Map<String, Object> form() {
        Map<String, Object> form = JobForm.of(document);
        boolean hasNone =
                !document.containsKey(JobForm.WHEN) && reading.phrase().isEmpty();
        form.put(
                JobForm.WHEN,
                hasNone
                        ? Map.of("pattern", NONE)
                        : reading.phrase().map(PhraseParts::write).orElse(null));
        return form;
    }

    // What is wrong, and what would change.

    private Optional<Job> parsed() {
        try {
            return Optional.of(DefinitionFile.parseJob("document", name, text));
        } catch (DefinitionsException e) {
            if (problems.stream()
                    .noneMatch(problem -> "error".equals(problem.get("severity")) && problem.get("line") != null)) {
                e.problems()
                        .forEach(problem -> note("error", problem.pointer(), Optional.of(problem), problem.message()));
            }
            return Optional.empty();
        }
    }

    private DefinitionDiff against(Job job, Optional<NamespaceView> space) {
        List<Job> all = new ArrayList<>(List.of(job));
        try {
            followed.ifPresent(other -> all.addAll(other.changes(history, name)));
        } catch (Problem e) {
            wrong(FORM + JobForm.WHEN + "/after", String.valueOf(e.getMessage()).replaceFirst("^after: ", ""));
        }
        DefinitionDiff diff =
                DefinitionDiff.ofItsJobs(DefinitionSet.of(source, all).within(name.namespace()), history, now, AHEAD);
        JobDiff own = diff.jobs().get(0);
        rules.apply(job, "").forEach(error -> wrong(error.pointer().orElse(""), error.detail()));
        space.flatMap(NamespaceView::allowance).ifPresent(row -> {
            Allowance allowance = row.allowance();
            allowance.refusals(own.job(), now).forEach(refusal -> wrong(pointer(refusal), refusal));
            if (own.kind() == JobDiff.Kind.NEW) {
                allowance.refusalOfJobs(space.get().jobs(), 1).ifPresent(refusal -> wrong("/name", refusal));
            }
        });
        if (space.flatMap(NamespaceView::allowance).isEmpty() && !caller.mayEverywhere(Role.AUTHOR)) {
            Allowance.OWN.refusals(own.job(), now).forEach(refusal -> wrong(pointer(refusal), refusal));
        }
        boolean follows = followed.flatMap(Followed::job).isPresent()
                || reading.phrase()
                        .filter(phrase -> phrase.pattern() instanceof Pattern.After)
                        .isPresent();
        Warnings.of(own.job(), now, follows ? Set.of(name) : Set.of())
                .forEach(warning -> surprising(
                        warning.startsWith("has no schedule") || warning.startsWith("'") || warning.startsWith("zone")
                                ? IN_WHEN
                                : "",
                        warning));
        return diff;
    }

    /** An allowance names the key that it refuses, if it is one. */
    private static String pointer(String refusal) {
        for (String key : List.of("handler", "lane", "payload")) {
            if (refusal.startsWith(key + ": ")) {
                return key.equals("handler") ? "/work/handler" : "/" + key;
            }
        }
        return refusal.startsWith("a ")
                ? "/work"
                : refusal.startsWith("'") || refusal.startsWith("its ") ? IN_WHEN : "";
    }
}
