package dev.brume.cli;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import java.io.PrintWriter;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;

/** Prints what an instance does, a line for each event. Safe for use by many threads. */
final class EventPrinter implements EngineListener {
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("MM-dd HH:mm:ss.SSSx");

    private final PrintWriter out;
    private final boolean json;
    private final Palette palette;
    private final ZoneId zone;

    EventPrinter(PrintWriter out, boolean json, Palette palette, ZoneId zone) {
        this.out = out;
        this.json = json;
        this.palette = palette;
        this.zone = zone;
    }

    @Override
    public void saw(Event event) {
        String line = json ? JsonText.line(Views.event(event)) : text(event);
        synchronized (out) {
            out.println(line);
            out.flush();
        }
    }

    private String text(Event event) {
        return line(
                CLOCK.format(event.at().atZone(zone)),
                palette.of(event.instance().hashCode(), event.instance()),
                event.kind().name(),
                event.job().map(Object::toString).orElse(""),
                event.run().isPresent() ? "#" + event.run().getAsLong() : "",
                event.text());
    }

    /** Lays out the parts of an event in columns. */
    private String line(String clock, String instance, String kind, String job, String run, String text) {
        String subject = (job + " " + run).strip();
        return palette.faint(clock) + "  " + instance + "  " + palette.word(String.format("%-11s", kind)) + "  "
                + (subject.isEmpty() ? "" : subject + "  ") + palette.faint(text);
    }
}
