package dev.brume.internal.document;

import dev.brume.Allowance;
import dev.brume.schedule.Durations;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;

/** Writes allowances as documents, and reads them back. Stateless and safe for use by many threads. */
public final class AllowanceDocument {
    private static final List<String> KEYS =
            List.of("jobs", "interval", "work", "handlers", "lanes", "payload", "shared", "followUps");

    private AllowanceDocument() {}

    /** Writes an allowance: what is not bounded is left out; what is granted is there even if it is nothing. */
    public static Map<String, Object> write(Allowance allowance) {
        Map<String, Object> document = new LinkedHashMap<>();
        allowance.mostJobs().ifPresent(most -> document.put("jobs", most));
        allowance.shortestInterval().ifPresent(least -> document.put("interval", Durations.format(least)));
        putIfAny(
                document,
                "work",
                allowance.kinds().stream().map(Allowance.Kind::toString).toList());
        putIfAny(document, "handlers", List.copyOf(allowance.handlers()));
        putIfAny(document, "lanes", List.copyOf(allowance.lanes()));
        allowance.longestPayload().ifPresent(most -> document.put("payload", most));
        document.put("shared", List.copyOf(allowance.shared()));
        document.put("followUps", List.copyOf(allowance.followUps()));
        return document;
    }

    private static void putIfAny(Map<String, Object> document, String key, List<String> names) {
        if (!names.isEmpty()) {
            document.put(key, names);
        }
    }

    /**
     * Reads a document.
     *
     * @param problems what is wrong is added
     * @return empty if something is wrong
     */
    public static Optional<Allowance> read(Object document, List<DocumentProblem> problems) {
        int before = problems.size();
        return Fields.open("", document, KEYS, problems)
                .flatMap(AllowanceDocument::read)
                .filter(allowance -> problems.size() == before);
    }

    /** Reads a document that is open; what is wrong with it is noted there. */
    public static Optional<Allowance> read(Fields fields) {
        Allowance[] read = {Allowance.OWN};
        fields.integer("jobs").ifPresent(most -> take(fields, "jobs", read, () -> read[0].mostJobs(most)));
        fields.duration("interval")
                .ifPresent(least -> take(fields, "interval", read, () -> read[0].shortestInterval(least)));
        fields.integer("payload").ifPresent(most -> take(fields, "payload", read, () -> read[0].longestPayload(most)));
        fields.texts("work").ifPresent(words -> take(fields, "work", read, () -> read[0].kinds(kinds(words))));
        fields.texts("handlers").ifPresent(names -> take(fields, "handlers", read, () -> read[0].handlers(names)));
        fields.texts("lanes").ifPresent(names -> take(fields, "lanes", read, () -> read[0].lanes(names)));
        fields.texts("shared").ifPresent(names -> take(fields, "shared", read, () -> read[0].sharing(names)));
        fields.texts("followUps").ifPresent(names -> take(fields, "followUps", read, () -> read[0].followedBy(names)));
        return Optional.of(read[0]);
    }

    private static void take(Fields fields, String key, Allowance[] read, Supplier<Allowance> step) {
        fields.read(key, step).ifPresent(next -> read[0] = next);
    }

    private static Set<Allowance.Kind> kinds(List<String> words) {
        Set<Allowance.Kind> kinds = new LinkedHashSet<>();
        List<String> known = new ArrayList<>();
        for (Allowance.Kind kind : Allowance.Kind.values()) {
            known.add(kind.toString());
        }
        for (String word : words) {
            if (!known.contains(word)) {
                throw new IllegalArgumentException("'" + word + "' is not one of " + String.join(", ", known));
            }
            kinds.add(Allowance.Kind.valueOf(word.toUpperCase(Locale.ROOT)));
        }
        return kinds;
    }
}
