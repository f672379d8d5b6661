package dev.brume.http.internal.draft;

import dev.brume.Job;
import dev.brume.definitions.Subject;
import dev.brume.definitions.Views;
import dev.brume.definitions.phrase.Phrase;
import dev.brume.definitions.phrase.PhraseParts;
import dev.brume.insight.check.ClockTurn;
import dev.brume.insight.check.DayOff;
import dev.brume.schedule.Counting;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/** What the schedules of a job come to: words, the next occurrences, clock changes, days off. Stateless. */
final class WhenView {
    private static final int NEXT = 10;
    private static final int MOST_DAYS = 12;

    private WhenView() {}

    /**
     * {@return it}
     *
     * @param job with its calendars
     */
    static Map<String, Object> of(Job job, Phrase.Reading reading, Instant now) {
        Job counted = job.countedFrom(Counting.from(now));
        Subject subject = Subject.of(counted, Optional.of(now));
        ZoneId zone = subject.zone();
        List<Map<String, Object>> next;
        try (Stream<Occurrence> all = subject.between(now, Instant.MAX)) {
            next = all.limit(NEXT).map(Views::occurrence).toList();
        }
        return Views.object(
                "words", job.schedules().isEmpty() ? "" : job.scheduleInWords(),
                "written", job.schedules().stream().map(Object::toString).toList(),
                "zone", zone.getId(),
                "parts", reading.phrase().map(PhraseParts::write),
                "whyNoParts", reading.why(),
                "next", next,
                "turns",
                        ClockTurn.coming(counted.timeline(), zone, now).stream()
                                .map(turn -> Views.object(
                                        "at", turn.at(),
                                        "local", turn.at().atZone(zone).toLocalDateTime(),
                                        "forwardSeconds", turn.forward().toSeconds(),
                                        "owed", turn.owed(),
                                        "says", turn.says()))
                                .toList(),
                "daysOff",
                        DayOff.coming(job, now, MOST_DAYS).stream()
                                .map(day -> Views.object(
                                        "date", day.date(), "calendar", day.calendar(), "movedTo", day.moved()))
                                .toList());
    }
}
