package dev.brume.ical;

import java.io.IOException;
import java.io.Writer;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import net.fortuna.ical4j.data.CalendarOutputter;
import net.fortuna.ical4j.model.Calendar;
import net.fortuna.ical4j.model.ComponentList;
import net.fortuna.ical4j.model.Property;
import net.fortuna.ical4j.model.PropertyList;
import net.fortuna.ical4j.model.component.CalendarComponent;
import net.fortuna.ical4j.model.component.VEvent;
import net.fortuna.ical4j.model.property.Description;
import net.fortuna.ical4j.model.property.DtStamp;
import net.fortuna.ical4j.model.property.DtStart;
import net.fortuna.ical4j.model.property.ProdId;
import net.fortuna.ical4j.model.property.RRule;
import net.fortuna.ical4j.model.property.Summary;
import net.fortuna.ical4j.model.property.Transp;
import net.fortuna.ical4j.model.property.Uid;
import net.fortuna.ical4j.model.property.immutable.ImmutableVersion;

/**
 * Writes moments as an iCalendar file of events in UTC. Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class CalendarWriter {

    /**
     * What to write: one moment, or one that comes again and again.
     *
     * @param uid identifies it for ever, so that a second import replaces the first
     * @param at when it is, first
     * @param rule how it comes again, in its zone; empty for once
     * @param lasts how long it takes; empty if that is not known
     * @param summary what is shown in a calendar
     * @param description more about it; may be empty
     */
    public record Entry(
            String uid,
            Instant at,
            Optional<CalendarRule> rule,
            Optional<Duration> lasts,
            String summary,
            String description) {}

    private CalendarWriter() {}

    /**
     * Writes a whole file, with the rules of the zones that recurring entries are in.
     *
     * @param entries at least one
     * @param stamp when the file is made
     */
    public static void write(Writer out, List<Entry> entries, Instant stamp) throws IOException {
        Map<ZoneId, Instant> zones = new LinkedHashMap<>();
        entries.forEach(entry -> entry.rule()
                .map(rule -> rule.start().getZone())
                .filter(zone -> !zone.equals(ZoneOffset.UTC))
                .ifPresent(zone -> zones.merge(zone, entry.at(), (a, b) -> a.isBefore(b) ? a : b)));
        List<CalendarComponent> components = new ArrayList<>();
        zones.forEach((zone, from) -> components.add(ZoneText.of(zone, from)));
        entries.forEach(entry -> components.add(event(entry, stamp)));
        Calendar calendar = new Calendar(
                new PropertyList(List.of(new ProdId("-//Brume//Preview//EN"), ImmutableVersion.VERSION_2_0)),
                new ComponentList<>(components));
        new CalendarOutputter().output(calendar, out);
    }

    private static VEvent event(Entry entry, Instant stamp) {
        List<Property> properties = new ArrayList<>(List.of(new Uid(entry.uid()), new DtStamp(stamp)));
        if (entry.rule().isPresent() && !entry.rule().get().start().getZone().equals(ZoneOffset.UTC)) {
            properties.add(new DtStart<>(entry.rule().get().start()));
        } else {
            properties.add(new DtStart<>(entry.at()));
        }
        entry.rule().ifPresent(rule -> properties.add(new RRule<Instant>(rule.text())));
        entry.lasts()
                .map(took -> Duration.ofSeconds(Math.max(1, took.toSeconds())))
                .ifPresent(took -> properties.add(new net.fortuna.ical4j.model.property.Duration(took)));
        properties.addAll(
                List.of(new Summary(entry.summary()), new Description(entry.description()), new Transp("TRANSPARENT")));
        return new VEvent(new PropertyList(properties));
    }
}
