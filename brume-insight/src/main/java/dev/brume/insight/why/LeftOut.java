package dev.brume.insight.why;

import dev.brume.Job;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** Why a rule names an instant that its job does not owe all the same: the terms beside it leave it out. Stateless. */
final class LeftOut {
    private static final Duration NEAR = Duration.ofMinutes(1);

    private LeftOut() {}

    /** Says which term leaves it out, and which occurrence that was; empty if no rule names an instant near there. */
    static Optional<String> of(Job job, Instant at) {
        return job.schedules().stream()
                .filter(TermedSchedule.class::isInstance)
                .map(TermedSchedule.class::cast)
                .flatMap(schedule -> named(schedule, at).map(each -> why(schedule, each)).stream())
                .findFirst();
    }

    private static Optional<Occurrence> named(TermedSchedule schedule, Instant at) {
        return schedule.rule()
                .previous(at.plusNanos(1))
                .filter(occurrence -> !occurrence.instant().isBefore(at.minus(NEAR)));
    }

    private static String why(TermedSchedule schedule, Occurrence named) {
        Terms terms = schedule.terms();
        LocalDate date = named.nominal().toLocalDate();
        String rule = "its rule names " + named.nominal() + " " + named.zone() + ", but ";
        Optional<DayCalendar> off =
                terms.notOn().stream().filter(days -> days.contains(date)).findFirst();
        if (off.isPresent()) {
            return rule + date + " is a day of the calendar " + off.get().name() + ", which it excludes" + moved(terms);
        }
        List<DayCalendar> required =
                terms.onlyOn().stream().filter(days -> !days.isMissing()).toList();
        if (!required.isEmpty() && required.stream().noneMatch(days -> days.contains(date))) {
            return rule + date + " is no day of "
                    + required.stream().map(DayCalendar::name).collect(Collectors.joining(" or "))
                    + ", which it requires"
                    + moved(terms);
        }
        if (terms.from()
                .filter(from -> named.instant().isBefore(from.instant()))
                .isPresent()) {
            return rule + "it begins at " + terms.from().get();
        }
        if (terms.until()
                .filter(until -> !named.instant().isBefore(until.instant()))
                .isPresent()) {
            return rule + "it ended at " + terms.until().get();
        }
        if (terms.window().isPresent()) {
            return rule + "that is outside its daily window " + terms.window().get();
        }
        return rule + "its terms leave that out (" + schedule + ")";
    }

    private static String moved(Terms terms) {
        return switch (terms.ifDayOff()) {
            case SKIP -> "";
            case NEXT -> "; it is moved to the next day that counts";
            case PREVIOUS -> "; it is moved to the last day before that counts";
        };
    }
}
