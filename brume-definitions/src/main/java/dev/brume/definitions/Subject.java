package dev.brume.definitions;

import dev.brume.Job;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Union;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What is previewed or explained: an expression, or a job.
 *
 * @param name the job's; empty for an expression
 * @param words what it does
 * @param schedules its rules
 * @param timeline when it is owed
 * @param estimated an occurrence that depends on when a run ends
 * @since 0.1.0
 */
public record Subject(
        String name, String words, List<Schedule> schedules, Timeline timeline, Optional<Occurrence> estimated) {

    /** {@return an expression} */
    public static Subject of(Schedule schedule, Instant now) {
        return new Subject("", schedule.words(), List.of(schedule), schedule, schedule.firstByEnds(now));
    }

    /** {@return a job as it stands; a schedule that goes by ends is due at an instant, if that is known} */
    public static Subject of(Job job, Optional<Instant> due) {
        Timeline timeline = job.enabled() ? job.timeline() : Union.of(List.of());
        Optional<Occurrence> estimated = due.flatMap(at -> job.byEnds().flatMap(schedule -> schedule.firstByEnds(at)));
        return new Subject(job.name().toString(), job.scheduleInWords(), job.schedules(), timeline, estimated);
    }

    /** {@return the zone of its first schedule} */
    public ZoneId zone() {
        return schedules.isEmpty() ? ZoneId.of("UTC") : schedules.get(0).zone();
    }

    /**
     * {@return what is due in a period, in its order}
     *
     * @param from inclusive
     * @param until exclusive
     */
    public Stream<Occurrence> between(Instant from, Instant until) {
        Stream<Occurrence> known = timeline.between(from, until);
        boolean inside = estimated
                .filter(at -> !at.instant().isBefore(from) && at.instant().isBefore(until))
                .isPresent();
        return inside ? Stream.concat(estimated.stream(), known) : known;
    }
}
