package dev.brume.cli;

import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.history.Pause;
import java.time.Instant;
import java.time.ZoneId;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Pauses jobs. */
@Command(
        name = "pause",
        mixinStandardHelpOptions = true,
        description =
                "Pauses a job, all jobs of a tag or of a namespace, or everything, now or later: they owe no runs until the pause ends by"
                        + " itself or by brume resume. Runs that there are go on; one-offs wait; brume run-now still works. Afterwards each"
                        + " job's ifMissed decides what is made up for. brume pauses lists them.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume pause --tag nightly --because 'database moves'",
            "  brume pause --tag nightly --until +2h --because 'database moves'",
            "  brume pause --everything --from 2027-12-24T18:00 --until 2028-01-02 --zone Atlantic/Azores --leave-out",
            "  brume pause --namespace ferry --days-of /dry-dock --because 'the ferry is in the dock'"
        })
final class PauseCommand implements Callable<Integer> {
    @Mixin
    private PauseScope which;

    @Mixin
    private PauseTime time;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        Ordered ordered = options.order(desk -> {
            Instant now = desk.history().now();
            PauseOrder order = time.order(which.scope(), now);
            return new Ordered(order, desk.pause(order), now);
        });
        PauseChange changed = ordered.changed;
        return report.done(
                which.scope()
                        + (changed.ordered() ? " paused" + ordered.when() + ": " : " was paused so before: ")
                        + ordered.jobs(),
                "scope",
                which.scope(),
                "ordered",
                changed.ordered(),
                "jobs",
                changed.jobs(),
                "from",
                ordered.order.from(),
                "until",
                ordered.order.until(),
                "calendar",
                ordered.order.days().map(Pause.Days::calendar),
                "owed",
                ordered.order.owed());
    }

    private record Ordered(PauseOrder order, PauseChange changed, Instant now) {

        String when() {
            return order.days()
                    .map(days -> " on the days of calendar " + days)
                    .orElseGet(() ->
                            order.from().map(from -> " from " + near(from)).orElse("")
                                    + order.until()
                                            .map(until -> " until " + near(until))
                                            .orElse(""));
        }

        private String near(Instant instant) {
            return Times.near(instant, now, ZoneId.systemDefault());
        }

        String jobs() {
            boolean later = order.from().isPresent() || order.days().isPresent();
            if (changed.jobs() == 0) {
                return later ? "no job comes under it yet" : "no job comes under it that was not paused already";
            }
            String owe = later ? "will owe nothing then" : changed.jobs() == 1 ? "owes nothing" : "owe nothing";
            return PauseScope.jobs(changed.jobs()) + " " + owe
                    + (later || order.until().isPresent() ? "" : " until resumed")
                    + (order.owed() == Pause.Owed.LEFT_OUT ? "; nothing is made up for afterwards" : "");
        }
    }
}
