package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Comparator;

/**
 * In which order jobs are shown.
 *
 * @since 0.1.0
 */
public enum JobOrder {
    /** By name with the namespace, {@code main/} too. */
    NAME(Comparator.comparing((JobView view) -> inFull(view.name()))),
    /** Whose next occurrence is due first; those that owe nothing come last. */
    NEXT(Comparator.<JobView, Instant>comparing(
                    view -> view.row().nextOccurrence().orElse(Instant.MAX))
            .thenComparing(view -> inFull(view.name())));

    private final Comparator<JobView> comparator;

    JobOrder(Comparator<JobView> comparator) {
        this.comparator = comparator;
    }

    static String inFull(JobName name) {
        return name.namespace() + "/" + name.name();
    }

    /** {@return how two jobs stand in this order; no two that are live are equal} */
    public Comparator<JobView> comparator() {
        return comparator;
    }
}
