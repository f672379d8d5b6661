package dev.brume.decide;

import dev.brume.Job;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Finds what is allowed in a definition and will surprise people all the same. */
public final class Warnings {
    private static final Duration FAR = Duration.ofDays(366);

    private Warnings() {}

    /** Returns the warnings about a job, as sentences. */
    public static List<String> of(Job job, Instant now) {
        List<String> warnings = new ArrayList<>();
        if (!job.enabled()) {
            return warnings;
        }
        if (job.schedules().isEmpty()) {
            warnings.add("has no schedule, so it never runs by itself");
        }
        for (Schedule schedule : job.schedules()) {
            Optional<Occurrence> next = schedule.next(now);
            if (next.isEmpty() && schedule instanceof OnceSchedule once) {
                warnings.add("'once: " + once + "' is already past, so it never runs");
            } else if (next.isEmpty()) {
                warnings.add("'" + schedule + "' has no occurrence left");
            } else if (Duration.between(now, next.get().instant()).compareTo(FAR) > 0) {
                long days = Duration.between(now, next.get().instant()).toDays();
                warnings.add("'" + schedule + "' is due next in " + days + " days, on "
                        + next.get().local().toLocalDate() + "; is the year right?");
            }
        }
        return warnings;
    }
}
