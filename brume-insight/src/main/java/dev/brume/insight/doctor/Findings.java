package dev.brume.insight.doctor;

import dev.brume.insight.doctor.Finding.Severity;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.Consumer;

/** Gathers what the parts of a checkup find; of one topic no more than can be read. Confined to one thread. */
final class Findings {
    private static final int MOST = 20;

    private final List<Finding> found = new ArrayList<>();

    void problem(String topic, String about, String text, String advice) {
        found.add(new Finding(Severity.PROBLEM, topic, about, text, advice));
    }

    void warning(String topic, String about, String text, String advice) {
        found.add(new Finding(Severity.WARNING, topic, about, text, advice));
    }

    void note(String topic, String about, String text, String advice) {
        found.add(new Finding(Severity.NOTE, topic, about, text, advice));
    }

    /** Adds one finding for each of some things, and one more for all that would be too many. */
    <T> void each(List<T> things, String topic, Consumer<T> finding) {
        things.stream().limit(MOST).forEach(finding);
        if (things.size() > MOST) {
            Severity severity = found.get(found.size() - 1).severity();
            found.add(new Finding(severity, topic, "", "and " + (things.size() - MOST) + " more of the same kind", ""));
        }
    }

    /** {@return everything, the worst first} */
    List<Finding> all() {
        return found.stream().sorted(Comparator.comparing(Finding::severity)).toList();
    }
}
