package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Event;
import dev.brume.JobName;
import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.Test;

class DemoPlotTest {
    private static final long SECOND = Duration.ofSeconds(1).toNanos();

    private final DemoPlot plot = new DemoPlot();

    @Test
    void everythingIsSeenOnceTheKilledInstancesRunWasTakenOverAndSucceeded() {
        says(Event.Kind.MISSED, "tide-tables", 1, "quay-2", 0);
        says(Event.Kind.SKIPPED, "archive-sync", 2, "quay-2", 0);
        says(Event.Kind.BACKING_OFF, "harbour-dues", 3, "quay-2", 0);
        says(Event.Kind.SUCCEEDED, "harbour-dues", 3, "quay-2", 0);
        says(Event.Kind.STARTED, "lamp-inspection", 4, "quay-1", 0);
        assertThat(plot.kill(2 * SECOND)).as("not in the middle yet").isEmpty();
        assertThat(plot.kill(3 * SECOND).orElseThrow().instance()).isEqualTo("quay-1");
        assertThat(plot.kill(4 * SECOND)).as("once").isEmpty();
        says(Event.Kind.TAKEN_OVER, "lamp-inspection", 4, "quay-2", 7);
        assertThat(plot.isComplete()).isFalse();
        says(Event.Kind.SUCCEEDED, "lamp-inspection", 4, "quay-3", 14);

        assertThat(plot.isComplete()).isTrue();
    }

    /** A demo that is slow for seconds kills too late: what its victim did then is no takeover. */
    @Test
    void anInstanceThatDiesAfterItsRunIsNotTheEndOfTheStory() {
        says(Event.Kind.STARTED, "lamp-inspection", 4, "quay-1", 0);
        assertThat(plot.kill(7 * SECOND)).isPresent();
        says(Event.Kind.SUCCEEDED, "lamp-inspection", 4, "quay-1", 8);

        says(Event.Kind.STARTED, "lamp-inspection", 5, "quay-2", 20);
        assertThat(plot.kill(23 * SECOND).orElseThrow().run()).isEqualTo(5);
    }

    @Test
    void aRunThatEndsBeforeItsInstanceIsKilledSparesIt() {
        says(Event.Kind.STARTED, "lamp-inspection", 4, "quay-1", 0);
        says(Event.Kind.SUCCEEDED, "lamp-inspection", 4, "quay-1", 1);

        assertThat(plot.kill(9 * SECOND)).isEmpty();
    }

    private void says(Event.Kind kind, String job, long run, String instance, long second) {
        Event event = Event.of(kind, Instant.EPOCH, instance, "said")
                .withJob(JobName.parse("minute/" + job))
                .withRun(run);
        plot.saw(event, second * SECOND);
    }
}
