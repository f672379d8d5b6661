package dev.brume.internal.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.mockingDetails;
import static org.mockito.Mockito.when;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.JobName;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.slf4j.Logger;
import org.slf4j.helpers.MessageFormatter;

/** What goes to the log. */
class EventLogTest {
    private final List<Event> heard = new ArrayList<>();
    private final Logger logger = mock(Logger.class);
    private long now = 1;
    private final EventLog log = new EventLog(heard::add, () -> now, logger);

    @BeforeEach
    void everythingIsEnabled() {
        when(logger.isWarnEnabled()).thenReturn(true);
        when(logger.isInfoEnabled()).thenReturn(true);
    }

    private List<String> logged() {
        return mockingDetails(logger).getInvocations().stream()
                .filter(call ->
                        List.of("warn", "info").contains(call.getMethod().getName()))
                .map(call -> call.getMethod().getName() + " "
                        + MessageFormatter.arrayFormat(
                                        call.getArgument(0),
                                        Arrays.copyOfRange(call.getArguments(), 1, call.getArguments().length))
                                .getMessage())
                .toList();
    }

    private void tell(Event.Kind kind, Optional<JobName> job, String text) {
        Event event = Event.of(kind, Instant.EPOCH, "quay-1", text);
        log.saw(job.map(event::withJob).orElse(event));
    }

    @Test
    void whatComesAgainIsCountedAndSaidAtGrowingIntervals() {
        Optional<JobName> buoys = Optional.of(JobName.parse("buoys"));
        tell(Event.Kind.JOINED, Optional.empty(), "lanes main=4");
        for (int second = 0; second < 3600; second++) {
            tell(Event.Kind.FAILED, buoys, "after 1s, NO_ATTEMPT_LEFT: buoy silent");
            tell(Event.Kind.PROBLEM, Optional.empty(), "looking for work failed: attempt " + second);
            now += Duration.ofSeconds(1).toNanos();
        }
        tell(Event.Kind.FAILED, Optional.of(JobName.parse("lamps")), "no oil");

        List<String> lines = logged();
        assertThat(lines).hasSizeBetween(12, 16);
        assertThat(lines.get(0)).isEqualTo("info quay-1: JOINED: lanes main=4");
        assertThat(lines.get(1)).isEqualTo("warn quay-1: FAILED buoys: after 1s, NO_ATTEMPT_LEFT: buoy silent");
        assertThat(lines).anyMatch(line -> line.contains("(and 59 more like it since the last line)"));
        assertThat(lines.get(lines.size() - 1)).isEqualTo("warn quay-1: FAILED lamps: no oil");
        assertThat(heard).as("the application hears all").hasSize(7202);
    }

    @Test
    void twoTroublesOfOneJobAreTwoAndATroubleOfAllIsNoFlood() {
        Optional<JobName> buoys = Optional.of(JobName.parse("buoys"));
        tell(Event.Kind.PROBLEM, buoys, "goes by calendar feasts, which nobody has defined");
        tell(Event.Kind.PROBLEM, buoys, "goes back and forth between two definitions");
        assertThat(logged()).hasSize(2);

        for (int job = 0; job < 5000; job++) {
            tell(Event.Kind.FAILED, Optional.of(JobName.parse("job-" + job)), "after 1s: no oil");
        }
        now += Duration.ofMinutes(1).toNanos();
        tell(Event.Kind.FAILED, buoys, "after 1s: no oil");

        assertThat(logged()).hasSize(202);
        assertThat(logged().get(200)).isEqualTo("warn 4802 more warnings were left out in a minute that had 200");
    }

    @Test
    void whatGoesWellIsNotWritten() {
        tell(Event.Kind.SUCCEEDED, Optional.of(JobName.parse("buoys")), "after 1s");
        tell(Event.Kind.STARTED, Optional.of(JobName.parse("buoys")), "");

        assertThat(logged()).isEmpty();
        assertThat(log.wants(Event.Kind.FAILED)).isTrue();
        EngineListener nobody = mock(EngineListener.class);
        assertThat(new EventLog(nobody, () -> now, logger).wants(Event.Kind.SUCCEEDED))
                .as("nothing is made that nobody reads")
                .isFalse();
    }
}
