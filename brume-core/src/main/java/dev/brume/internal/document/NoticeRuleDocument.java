package dev.brume.internal.document;

import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.schedule.Durations;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Reads and writes rules of notices as documents. Stateless and safe for use by many threads. */
public final class NoticeRuleDocument {
    private static final List<String> KEYS = List.of(
            "tell",
            "failedInARow",
            "skippedInARow",
            "late",
            "tookLonger",
            "tookLongerThanUsual",
            "of",
            "to",
            "digest",
            "recovery");

    private NoticeRuleDocument() {}

    /**
     * Reads a rule.
     *
     * @param name in full
     * @param problems receives whatever is wrong, all of it
     * @return empty if anything was wrong
     */
    public static Optional<NoticeRule> read(String name, String path, Object document, List<DocumentProblem> problems) {
        int before = problems.size();
        Optional<Fields> opened = Fields.open(path, document, KEYS, problems);
        if (opened.isEmpty()) {
            return Optional.empty();
        }
        Fields fields = opened.get();
        Reading reading = new Reading(fields, NoticeRule.named(name));
        Map<String, NoticeKind> kinds = NoticeKind.plain().stream()
                .collect(Collectors.toMap(NoticeKind::word, kind -> kind, (a, b) -> a, LinkedHashMap::new));
        fields.texts("tell")
                .ifPresent(words -> words.forEach(word -> reading.take("tell", rule -> rule.tell(kind(word, kinds)))));
        fields.integer("failedInARow")
                .ifPresent(count -> reading.take("failedInARow", rule -> rule.failedInARow(count)));
        fields.integer("skippedInARow")
                .ifPresent(count -> reading.take("skippedInARow", rule -> rule.skippedInARow(count)));
        fields.duration("late").ifPresent(by -> reading.take("late", rule -> rule.late(by)));
        fields.duration("tookLonger").ifPresent(than -> reading.take("tookLonger", rule -> rule.tookLonger(than)));
        fields.integer("tookLongerThanUsual")
                .ifPresent(percent -> reading.take("tookLongerThanUsual", rule -> rule.tookLongerThanUsual(percent)));
        scope(fields, reading.rule.namespace(), problems)
                .ifPresent(scope -> reading.take("of", rule -> rule.of(scope)));
        fields.texts("to").ifPresent(to -> reading.take("to", rule -> rule.to(to.toArray(String[]::new))));
        fields.duration("digest").ifPresent(every -> reading.take("digest", rule -> rule.digest(every)));
        if (fields.flag("recovery").filter(told -> !told).isPresent()) {
            reading.rule = reading.rule.withoutRecovery();
        }
        if (problems.size() == before && reading.rule.all().isEmpty()) {
            fields.noteHere(
                    "asks for nothing (add tell: [failed], or one of " + String.join(", ", KEYS.subList(1, 6)) + ")");
        }
        if (!fields.has("to")) {
            fields.noteHere("tells nobody (add to: [CHANNEL])");
        }
        return problems.size() > before ? Optional.empty() : Optional.of(reading.rule);
    }

    private static final class Reading {
        private final Fields fields;
        private NoticeRule rule;

        Reading(Fields fields, NoticeRule rule) {
            this.fields = fields;
            this.rule = rule;
        }

        void take(String key, Function<NoticeRule, NoticeRule> step) {
            fields.read(key, () -> step.apply(rule)).ifPresent(next -> rule = next);
        }
    }

    private static NoticeKind kind(String word, Map<String, NoticeKind> kinds) {
        NoticeKind kind = kinds.get(word);
        if (kind == null) {
            boolean measured =
                    NoticeKind.of(word).filter(NoticeKind::isMeasured).isPresent();
            throw new IllegalArgumentException(
                    measured
                            ? "'" + word + "' needs a number (write " + word + ": beside tell:)"
                            : "'" + word + "' is not one of " + String.join(", ", kinds.keySet()));
        }
        return kind;
    }

    private static Optional<JobScope> scope(Fields fields, String namespace, List<DocumentProblem> problems) {
        return fields.mapping("of", List.of("jobs", "tags")).flatMap(of -> {
            int before = problems.size();
            JobScope[] scope = {JobScope.ALL};
            of.texts("jobs")
                    .ifPresent(jobs -> jobs.forEach(job -> of.read(
                                    "jobs",
                                    () -> scope[0].andJob(
                                            job.contains("/") ? job : new JobName(namespace, job).toString()))
                            .ifPresent(more -> scope[0] = more)));
            of.texts("tags").ifPresent(tags -> tags.forEach(tag -> scope[0] = scope[0].andTag(tag)));
            if (problems.size() == before && scope[0].isAll()) {
                of.noteHere("names no job and no tag (leave it out for all jobs)");
            }
            return problems.size() > before ? Optional.empty() : Optional.of(scope[0]);
        });
    }

    /** Writes a rule as {@link #read} reads it back. */
    public static Map<String, Object> write(NoticeRule rule) {
        Map<String, Object> document = new LinkedHashMap<>();
        if (!rule.kinds().isEmpty()) {
            document.put("tell", rule.kinds().stream().map(NoticeKind::word).toList());
        }
        rule.failedInARow().ifPresent(count -> document.put("failedInARow", count));
        rule.skippedInARow().ifPresent(count -> document.put("skippedInARow", count));
        rule.late().ifPresent(by -> document.put("late", Durations.format(by)));
        rule.tookLonger().ifPresent(than -> document.put("tookLonger", Durations.format(than)));
        rule.tookLongerThanUsual().ifPresent(percent -> document.put("tookLongerThanUsual", percent));
        if (!rule.of().isAll()) {
            Map<String, Object> of = new LinkedHashMap<>();
            if (!rule.of().jobs().isEmpty()) {
                of.put(
                        "jobs",
                        new ArrayList<>(rule.of().jobs().stream()
                                .map(JobName::toString)
                                .sorted()
                                .toList()));
            }
            if (!rule.of().tags().isEmpty()) {
                of.put("tags", rule.of().tags().stream().sorted().toList());
            }
            document.put("of", of);
        }
        document.put("to", rule.to());
        if (!rule.digest().equals(NoticeRule.DIGEST)) {
            document.put("digest", Durations.format(rule.digest()));
        }
        if (!rule.recovery()) {
            document.put("recovery", false);
        }
        return document;
    }
}
