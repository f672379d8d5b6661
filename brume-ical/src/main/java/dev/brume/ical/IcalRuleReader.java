package dev.brume.ical;

import dev.brume.ical.ContentLines.Line;
import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.Nearest;
import dev.brume.schedule.RuleReader;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;

/**
 * Reads rules of RFC 5545. Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class IcalRuleReader implements RuleReader {
    private static final int LONGEST = 20_000;
    private static final List<String> ALLOWED = List.of("DTSTART", "RRULE", "RDATE", "EXDATE");

    /** Creates the reader. */
    public IcalRuleReader() {
        // Nothing to set up.
    }

    @Override
    public Rule read(String text, ZoneId zone) {
        Objects.requireNonNull(zone, "zone");
        if (text.length() > LONGEST) {
            throw Problems.of("rule", text, 0, "is longer than " + LONGEST + " characters");
        }
        List<Line> lines = ContentLines.ofRule(text);
        for (Line line : lines) {
            if (!ALLOWED.contains(line.name)) {
                throw Problems.of(
                        "rule",
                        line.name,
                        "does not belong to a rule (allowed: " + String.join(", ", ALLOWED) + ")",
                        Nearest.to(line.name, ALLOWED));
            }
        }
        Line startLine = only(lines, "DTSTART")
                .orElseThrow(() -> Problems.of(
                        "rule", "", 0, "has no DTSTART, from which a rule counts (add DTSTART:20270105T090000)"));
        return read(lines, DateValue.of(startLine, ZoneNames.COMMON), zone);
    }

    private static Rule read(List<Line> lines, DateValue dtstart, ZoneId given) {
        ZoneId zone = dtstart.zone().orElse(given);
        LocalDateTime start = dtstart.local();
        Optional<RuleParts> parts = only(lines, "RRULE").map(line -> RuleParts.read(line.value, zone));
        Optional<Recurrence> named = parts.map(rule -> new Recurrence(rule, start));
        LocalTimes recurrence = named.<LocalTimes>map(rule -> rule)
                .orElseGet(() -> new RuleTimes(new NoTimes(), new long[] {seconds(start)}, new long[0]));
        boolean namesItsStart = named.map(rule -> rule.names(seconds(start))).orElse(true);
        long[] added = seconds(lines, "RDATE", zone);
        long[] excluded = seconds(lines, "EXDATE", zone);
        LocalTimes times =
                added.length + excluded.length == 0 ? recurrence : new RuleTimes(recurrence, added, excluded);
        if (times.next(Long.MIN_VALUE + 1) == LocalTimes.NONE) {
            throw Problems.of("rule", "", 0, "never fires: its EXDATE leave nothing of it");
        }
        return new ReadRule(times, zone, start, parts, added.length, excluded.length, namesItsStart);
    }

    private static long seconds(LocalDateTime local) {
        return local.toEpochSecond(ZoneOffset.UTC);
    }

    private static Optional<Line> only(List<Line> lines, String name) {
        List<Line> found = lines.stream().filter(line -> line.name.equals(name)).toList();
        if (found.size() > 1) {
            throw Problems.of(name, found.get(1).value, 0, "comes twice; use one schedule for each rule");
        }
        return found.stream().findFirst();
    }

    private static long[] seconds(List<Line> lines, String name, ZoneId zone) {
        return lines.stream()
                .filter(line -> line.name.equals(name))
                .flatMap(line -> DateValue.allOf(line, ZoneNames.COMMON).stream())
                .mapToLong(value -> value.secondsIn(zone))
                .toArray();
    }

    private record ReadRule(
            LocalTimes times,
            ZoneId zone,
            LocalDateTime start,
            Optional<RuleParts> parts,
            int added,
            int excluded,
            boolean namesItsStart)
            implements Rule {
        private static final int SAMPLE = 200;

        @Override
        public String words(Locale locale) {
            return RuleWords.of(parts, start, zone, added, excluded, locale);
        }

        /** The shortest distance among the first of its times. */
        @Override
        public Duration smallestInterval() {
            long smallest = Long.MAX_VALUE;
            long at = times.next(Long.MIN_VALUE + 1);
            for (int i = 0; i < SAMPLE; i++) {
                long next = times.next(at + 1);
                if (next == LocalTimes.NONE) {
                    break;
                }
                smallest = Math.min(smallest, next - at);
                at = next;
            }
            return Duration.ofSeconds(smallest);
        }
    }
}
