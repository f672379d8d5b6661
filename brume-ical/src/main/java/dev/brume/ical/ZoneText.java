package dev.brume.ical;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneOffsetTransitionRule;
import java.time.zone.ZoneRules;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import net.fortuna.ical4j.model.ComponentList;
import net.fortuna.ical4j.model.Property;
import net.fortuna.ical4j.model.PropertyList;
import net.fortuna.ical4j.model.component.Daylight;
import net.fortuna.ical4j.model.component.Observance;
import net.fortuna.ical4j.model.component.Standard;
import net.fortuna.ical4j.model.component.VTimeZone;
import net.fortuna.ical4j.model.property.DtStart;
import net.fortuna.ical4j.model.property.RRule;
import net.fortuna.ical4j.model.property.TzId;
import net.fortuna.ical4j.model.property.TzOffsetFrom;
import net.fortuna.ical4j.model.property.TzOffsetTo;

/** Writes the rules of a zone, as this Java knows them, into a file that programs without a zone database read. Stateless. */
final class ZoneText {
    /** Changes are listed one by one until the zone follows yearly rules, and for at most so long if it never does. */
    private static final int MOST_CHANGES = 100;

    private ZoneText() {}

    /** {@return the zone from an instant on} */
    static VTimeZone of(ZoneId zone, Instant from) {
        ZoneRules rules = zone.getRules();
        List<Observance> observances = new ArrayList<>();
        ZoneOffsetTransition last = rules.previousTransition(from.plusNanos(1));
        ZoneOffset offset = rules.getOffset(from);
        observances.add(observance(
                rules,
                from,
                last == null ? LocalDateTime.of(1970, 1, 1, 0, 0) : last.getDateTimeBefore(),
                last == null ? offset : last.getOffsetBefore(),
                offset,
                Optional.empty()));
        ZoneOffsetTransition change = rules.nextTransition(from);
        List<ZoneOffsetTransitionRule> yearly = new ArrayList<>(rules.getTransitionRules());
        for (int i = 0; i < MOST_CHANGES && change != null; i++) {
            int year = change.getDateTimeBefore().getYear();
            Instant at = change.getInstant();
            Optional<ZoneOffsetTransitionRule> rule = yearly.stream()
                    .filter(each -> each.createTransition(year).getInstant().equals(at))
                    .findFirst();
            rule.ifPresent(yearly::remove);
            observances.add(observance(
                    rules,
                    at,
                    change.getDateTimeBefore(),
                    change.getOffsetBefore(),
                    change.getOffsetAfter(),
                    rule.flatMap(ZoneText::rule)));
            if (yearly.isEmpty() && !rules.getTransitionRules().isEmpty()) {
                break;
            }
            change = rules.nextTransition(at);
        }
        return new VTimeZone(
                new PropertyList(List.of((Property) new TzId(zone.getId()))), new ComponentList<>(observances));
    }

    private static Observance observance(
            ZoneRules rules,
            Instant at,
            LocalDateTime local,
            ZoneOffset before,
            ZoneOffset after,
            Optional<String> rule) {
        List<Property> properties =
                new ArrayList<>(List.of(new DtStart<>(local), new TzOffsetFrom(before), new TzOffsetTo(after)));
        rule.ifPresent(text -> properties.add(new RRule<LocalDateTime>(text)));
        return rules.isDaylightSavings(at)
                ? new Daylight(new PropertyList(properties))
                : new Standard(new PropertyList(properties));
    }

    /** A change that comes each year on the first, second, third or last weekday of a month. */
    private static Optional<String> rule(ZoneOffsetTransitionRule rule) {
        DayOfWeek weekday = rule.getDayOfWeek();
        int day = rule.getDayOfMonthIndicator();
        String month = "FREQ=YEARLY;BYMONTH=" + rule.getMonth().getValue();
        if (weekday == null) {
            return Optional.of(month + ";BYMONTHDAY=" + day);
        }
        String name = weekday.name().substring(0, 2);
        boolean inLastWeek = day + 6 == rule.getMonth().minLength()
                && day + 6 == rule.getMonth().maxLength();
        if (day == -1 || inLastWeek) {
            return Optional.of(month + ";BYDAY=-1" + name);
        }
        if (day < 1) {
            return Optional.empty();
        }
        return Optional.of(
                day % 7 == 1
                        ? month + ";BYDAY=" + (day / 7 + 1) + name
                        : month + ";BYDAY=" + name + ";BYMONTHDAY=" + days(day));
    }

    private static String days(int first) {
        List<String> days = new ArrayList<>();
        for (int day = first; day < first + 7; day++) {
            days.add(Integer.toString(day));
        }
        return String.join(",", days);
    }
}
