package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Event;
import dev.brume.JobName;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Map;
import org.junit.jupiter.api.Test;

class EventPrinterTest {
    private static final Event STARTED = Event.of(
                    Event.Kind.STARTED, Instant.parse("2026-11-23T10:00:00.042Z"), "quay-1", "planned \"now\"")
            .withJob(JobName.parse("harbour/tides"))
            .withRun(17)
            .withAttempt(1);
    private static final Event JOINED =
            Event.of(Event.Kind.JOINED, Instant.parse("2026-11-23T10:00:00Z"), "quay-1", "lanes main=4");

    private static String print(boolean json, Event... events) {
        StringWriter text = new StringWriter();
        EventPrinter printer =
                new EventPrinter(new PrintWriter(text), json, new Palette(false), ZoneId.of("Atlantic/Azores"));
        for (Event event : events) {
            printer.saw(event);
        }
        return text.toString();
    }

    @Test
    void anEventIsALineInTheViewersTime() {
        assertThat(print(/* json= */ false, JOINED, STARTED)).isEqualTo("""
                        11-23 09:00:00.000-01  quay-1  JOINED       lanes main=4
                        11-23 09:00:00.042-01  quay-1  STARTED      harbour/tides #17  planned "now"
                        """);
    }

    @Test
    void anEventIsAJsonLineWithEveryField() throws Exception {
        String[] lines = print(/* json= */ true, JOINED, STARTED).split("\n");

        Map<String, Object> joined = JSON.std.mapFrom(lines[0]);
        assertThat(joined)
                .containsEntry("kind", "JOINED")
                .containsEntry("job", null)
                .containsEntry("run", null);
        assertThat(JSON.std.mapFrom(lines[1]))
                .containsEntry("kind", "STARTED")
                .containsEntry("at", "2026-11-23T10:00:00.042Z")
                .containsEntry("instance", "quay-1")
                .containsEntry("job", "harbour/tides")
                .containsEntry("run", "17")
                .containsEntry("text", "planned \"now\"");
    }
}
