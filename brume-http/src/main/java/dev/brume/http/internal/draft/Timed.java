package dev.brume.http.internal.draft;

import dev.brume.Allowance;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionsException;
import dev.brume.definitions.Views;
import dev.brume.definitions.YamlText;
import dev.brume.definitions.phrase.Pattern;
import dev.brume.definitions.phrase.Phrase;
import dev.brume.definitions.phrase.PhraseParts;
import dev.brume.history.AllowanceRow;
import dev.brume.history.History;
import dev.brume.history.NamespaceView;
import dev.brume.insight.check.Warnings;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A schedule that somebody chooses or has written, without a job around it: what it comes to. Confined to one thread. */
public final class Timed {
    private final History history;
    private final Optional<String> namespace;
    private final Instant now;
    private final List<Map<String, Object>> problems = new ArrayList<>();

    /**
     * Begins.
     *
     * @param namespace whose calendars and allowance are meant; none if empty
     */
    public Timed(History history, Optional<String> namespace) {
        this.history = history;
        this.namespace = namespace;
        this.now = history.now();
    }

    private void note(String severity, String pointer, String message) {
        problems.add(Views.object(
                "severity",
                severity,
                "field",
                pointer.startsWith("/parts/") ? "when" + pointer.substring("/parts".length()) : "when",
                "pointer",
                pointer,
                "line",
                null,
                "column",
                null,
                "message",
                message));
    }

    /**
     * {@return what it comes to}
     *
     * @param parts of the sentence, if that is what was chosen
     * @param when the schedule as it is written otherwise
     */
    public Map<String, Object> view(Optional<Object> parts, Object when) {
        JobName name = new JobName(namespace.filter(JobName::isName).orElse(JobName.MAIN), "it");
        Optional<Phrase> phrase = parts.flatMap(
                given -> PhraseParts.read("/parts", given, now, (pointer, text) -> note("error", pointer, text)));
        if (phrase.filter(chosen -> chosen.pattern() instanceof Pattern.After).isPresent()) {
            note("error", "/parts/pattern", "after another job is said where the job is defined, not of its times");
            phrase = Optional.empty();
        }
        Optional<Object> written = parts.isEmpty() ? Optional.of(when) : phrase.map(chosen -> Draft.when(chosen, name));
        Optional<Job> job = written.flatMap(text -> job(name, text));
        Phrase.Reading reading = phrase.map(Phrase.Reading::of)
                .orElseGet(() -> Phrase.read(job.map(Job::schedules).orElse(List.of())));
        job.ifPresent(this::check);
        return Views.object(
                "when", job.flatMap(read -> written).orElse(null),
                "text", job.flatMap(read -> written).map(text -> YamlText.of(Map.of("when", text))),
                "timing", job.map(read -> WhenView.of(read, reading, now)),
                "problems", problems,
                "isGood", problems.stream().noneMatch(problem -> "error".equals(problem.get("severity"))));
    }

    private Optional<Job> job(JobName name, Object when) {
        try {
            Job job = DefinitionFile.parseJob(
                    "schedule", name, YamlText.of(Map.of("when", when, "work", Map.of("handler", "any"))));
            return Optional.of(namespace.isEmpty() ? job : NamedDays.in(job, history));
        } catch (DefinitionsException e) {
            e.problems().forEach(problem -> note("error", problem.pointer(), problem.message()));
            return Optional.empty();
        }
    }

    private void check(Job job) {
        namespace
                .flatMap(name -> history.namespaces().stream()
                        .filter(space -> space.name().equals(name))
                        .findFirst())
                .flatMap(NamespaceView::allowance)
                .map(AllowanceRow::allowance)
                .ifPresent(allowance -> refuse(allowance, job));
        Warnings.of(job, now).forEach(warning -> note("warning", "/when", warning));
    }

    /** Only what it says of times and calendars is about a schedule. */
    private void refuse(Allowance allowance, Job job) {
        allowance
                .kinds(Set.of())
                .handlers(List.of())
                .refusals(job, now)
                .forEach(refusal -> note("error", "/when", refusal));
    }
}
