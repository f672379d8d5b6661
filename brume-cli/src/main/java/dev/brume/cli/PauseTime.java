package dev.brume.cli;

import dev.brume.CalendarName;
import dev.brume.JobName;
import dev.brume.PauseOrder;
import dev.brume.history.Pause;
import java.time.Instant;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** When a pause begins and ends, and what becomes of what is owed meanwhile. */
final class PauseTime {
    @Option(
            names = "--from",
            paramLabel = "TIME",
            description =
                    "When it begins: 2027-12-24T18:00 in --zone, with Z, or +2h from now; now if not given. What is planned for that time is not owed.")
    private @Nullable String from;

    @Option(
            names = "--until",
            paramLabel = "TIME",
            description =
                    "When it ends by itself, in the same forms; brume resume otherwise. What is planned for that time runs.")
    private @Nullable String until;

    @Option(
            names = "--days-of",
            paramLabel = "CALENDAR",
            description =
                    "On the days to come of a calendar instead, from midnight to midnight in --zone: NAME, NAMESPACE/NAME, or /NAME for the cluster's. They follow the calendar when it changes.")
    private @Nullable String calendar;

    @Option(
            names = "--leave-out",
            description =
                    "Nothing that is owed meanwhile is made up for, whatever ifMissed says. Pauses that touch or overlap count as one.")
    private boolean leaveOut;

    @Mixin
    private ZoneOption zone;

    PauseOrder order(Pause.Scope scope, Instant now) {
        try {
            PauseOrder order = PauseOrder.of(scope);
            order = from == null ? order : order.from(zone.parse("--from", from, now));
            order = until == null ? order : order.until(zone.parse("--until", until, now));
            order = calendar == null ? order : order.during(calendar(calendar), zone.zone());
            return leaveOut ? order.leavingOut() : order;
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private static CalendarName calendar(String text) {
        int stroke = text.indexOf('/');
        return stroke < 0
                ? new CalendarName(JobName.MAIN, text)
                : new CalendarName(text.substring(0, stroke), text.substring(stroke + 1));
    }
}
