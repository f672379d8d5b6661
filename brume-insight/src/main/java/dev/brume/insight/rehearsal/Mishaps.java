package dev.brume.insight.rehearsal;

import dev.brume.JobName;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/**
 * What goes wrong in a rehearsal.
 *
 * @param losses instances that die
 * @param outages when the database is away
 * @param slower by which factor the work of jobs takes longer, from 0.01 to 1000
 * @since 0.1.0
 */
public record Mishaps(List<Loss> losses, List<Outage> outages, Map<JobName, Double> slower) {
    /** Nothing goes wrong. */
    public static final Mishaps NONE = new Mishaps(List.of(), List.of(), Map.of());

    private static final double LEAST = 0.01;
    private static final double MOST = 1000;

    /** An instance that dies at an instant, and does not come back. */
    public record Loss(String instance, Instant at) {}

    /** A time in which the database is away. */
    public record Outage(Instant from, Duration length) {
        /** Checks it. */
        public Outage {
            Durations.checked("outage", length, Duration.ofSeconds(1), Duration.ofDays(30));
        }

        boolean holds(Instant at) {
            return !at.isBefore(from) && at.isBefore(from.plus(length));
        }
    }

    /** Checks it. */
    public Mishaps {
        losses = List.copyOf(losses);
        outages = List.copyOf(outages);
        slower = Map.copyOf(slower);
        slower.forEach((job, factor) -> {
            if (!(factor >= LEAST && factor <= MOST)) {
                throw new IllegalArgumentException(
                        "slow: " + job + "*" + factor + " is outside " + LEAST + " to " + (int) MOST);
            }
        });
    }

    /** {@return whether nothing goes wrong} */
    public boolean isNone() {
        return losses.isEmpty() && outages.isEmpty() && slower.isEmpty();
    }
}
