package dev.brume.ical;

import java.io.IOException;
import java.io.Writer;
import java.time.Instant;
import java.util.List;
import net.fortuna.ical4j.data.CalendarOutputter;
import net.fortuna.ical4j.model.Calendar;
import net.fortuna.ical4j.model.ComponentList;
import net.fortuna.ical4j.model.PropertyList;
import net.fortuna.ical4j.model.component.CalendarComponent;
import net.fortuna.ical4j.model.component.VEvent;
import net.fortuna.ical4j.model.property.Description;
import net.fortuna.ical4j.model.property.DtStamp;
import net.fortuna.ical4j.model.property.DtStart;
import net.fortuna.ical4j.model.property.ProdId;
import net.fortuna.ical4j.model.property.Summary;
import net.fortuna.ical4j.model.property.Transp;
import net.fortuna.ical4j.model.property.Uid;
import net.fortuna.ical4j.model.property.immutable.ImmutableVersion;

/** Writes moments as an iCalendar file of events in UTC. Stateless and safe for use by many threads. */
public final class CalendarWriter {

    /**
     * One moment to write.
     *
     * @param uid identifies it for ever, so that a second import replaces the first
     * @param at when it is
     * @param summary what is shown in a calendar
     * @param description more about it; may be empty
     */
    public record Entry(String uid, Instant at, String summary, String description) {}

    private CalendarWriter() {}

    /**
     * Writes a whole file.
     *
     * @param entries at least one
     * @param stamp when the file is made
     */
    public static void write(Writer out, List<Entry> entries, Instant stamp) throws IOException {
        List<CalendarComponent> events = entries.stream()
                .map(entry -> (CalendarComponent) event(entry, stamp))
                .toList();
        Calendar calendar = new Calendar(
                new PropertyList(List.of(new ProdId("-//Brume//Preview//EN"), ImmutableVersion.VERSION_2_0)),
                new ComponentList<>(events));
        new CalendarOutputter().output(calendar, out);
    }

    private static VEvent event(Entry entry, Instant stamp) {
        return new VEvent(new PropertyList(List.of(
                new Uid(entry.uid()),
                new DtStamp(stamp),
                new DtStart<>(entry.at()),
                new Summary(entry.summary()),
                new Description(entry.description()),
                new Transp("TRANSPARENT"))));
    }
}
