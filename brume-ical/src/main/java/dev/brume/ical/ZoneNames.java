package dev.brume.ical;

import dev.brume.ical.ContentLines.Line;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.Zones;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Consumer;

/**
 * What the names of time zones in a file mean.
 *
 * <p>A TZID is taken for the IANA zone of that name; of the name at its end, as in {@code /example.org/Europe/Lisbon}; of what a common
 * vendor means by it; of what its VTIMEZONE states as X-LIC-LOCATION. Otherwise its VTIMEZONE is looked at: a zone that keeps the same
 * offsets in winter and summer stands for it, with a warning. Confined to one thread.
 */
final class ZoneNames {
    /** Only the TZIDs of a rule by itself: nothing is defined beside it. */
    static final ZoneNames COMMON = new ZoneNames(List.of(), warning -> {});

    private static final Map<String, String> VENDORS = vendors();

    /** Offsets are compared in a year without changes of rules. */
    private static final int YEAR = 2024;

    private final Map<String, Block> defined = new HashMap<>();
    private final Map<String, ZoneId> known = new HashMap<>();
    private final Set<String> told = new HashSet<>();
    private final Consumer<Warning> warnings;

    ZoneNames(Collection<Block> timezones, Consumer<Warning> warnings) {
        this.warnings = warnings;
        for (Block timezone : timezones) {
            for (Line line : ContentLines.of(timezone.lines(), "calendar")) {
                if (line.name.equals("TZID")) {
                    defined.put(line.value.strip(), timezone);
                }
            }
        }
    }

    private static Map<String, String> vendors() {
        Map<String, String> names = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        try (InputStream file = ZoneNames.class.getResourceAsStream("vendor-zones.txt")) {
            new String(file.readAllBytes(), StandardCharsets.UTF_8)
                    .lines()
                    .filter(line -> !line.startsWith("#"))
                    .map(line -> line.split("\\|"))
                    .forEach(pair -> names.put(pair[0], pair[1]));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return names;
    }

    /**
     * {@return the zone that a property names}
     *
     * @throws ScheduleSyntaxException if nobody knows it
     */
    ZoneId of(Line property, String id) {
        ZoneId zone = known.get(id);
        if (zone == null) {
            zone = find(property, id.strip());
            known.put(id, zone);
        }
        return zone;
    }

    private ZoneId find(Line property, String id) {
        Optional<ZoneId> named = named(id);
        Block timezone = defined.get(id);
        if (named.isEmpty() && timezone != null) {
            named = stated(timezone).or(() -> like(property, id, timezone));
        }
        return named.orElseThrow(() -> {
            try {
                Zones.parse(id);
                throw new IllegalStateException(id + " was not found before");
            } catch (ScheduleSyntaxException unknown) {
                return Problems.of(
                        property.name + ";TZID",
                        id,
                        unknown.problems().get(0).rule(),
                        unknown.problems().get(0).suggestion());
            }
        });
    }

    private static Optional<ZoneId> named(String id) {
        String vendors = VENDORS.get(id);
        String name = vendors == null ? id : vendors;
        while (true) {
            try {
                return Optional.of(Zones.parse(name));
            } catch (ScheduleSyntaxException unknown) {
                int slash = name.indexOf('/');
                if (slash < 0) {
                    return ending(id);
                }
                name = name.substring(slash + 1);
            }
        }
    }

    /** The region that a vendor has put something before, such as {@code custom_America/New_York}. */
    private static Optional<ZoneId> ending(String id) {
        return ZoneId.getAvailableZoneIds().stream()
                .filter(region -> region.indexOf('/') > 0 && id.endsWith(region))
                .max(Comparator.comparingInt(String::length))
                .map(ZoneId::of);
    }

    private static Optional<ZoneId> stated(Block timezone) {
        return ContentLines.of(timezone.lines(), "calendar").stream()
                .filter(line -> line.name.equals("X-LIC-LOCATION"))
                .flatMap(line -> named(line.value.strip()).stream())
                .findFirst();
    }

    /** Zones that are the vendor's names for regions come first, so that the one found is a place people know. */
    private Optional<ZoneId> like(Line property, String id, Block timezone) {
        Optional<ZoneOffset> standard = offset(timezone, "STANDARD");
        Optional<ZoneOffset> daylight = offset(timezone, "DAYLIGHT");
        if (standard.isEmpty() && daylight.isEmpty()) {
            return Optional.empty();
        }
        ZoneOffset winter = standard.orElseGet(daylight::orElseThrow);
        ZoneOffset summer = daylight.orElse(winter);
        boolean south = isSouthern(timezone);
        ZoneId found = winter.equals(summer)
                ? winter
                : VENDORS.values().stream()
                        .sorted()
                        .map(ZoneId::of)
                        .filter(zone -> offset(zone, south ? 7 : 1).equals(winter)
                                && offset(zone, south ? 1 : 7).equals(summer))
                        .findFirst()
                        .orElse(winter);
        if (told.add(id)) {
            warnings.accept(new Warning(
                    property.number,
                    "names the zone '" + id + "', which is taken for " + found + " by the offsets of its VTIMEZONE"));
        }
        return Optional.of(found);
    }

    private static ZoneOffset offset(ZoneId zone, int month) {
        return zone.getRules().getOffset(LocalDate.of(YEAR, month, 15).atTime(12, 0));
    }

    /** The newest of several. */
    private static Optional<ZoneOffset> offset(Block timezone, String kind) {
        List<Block> found = timezone.inside(kind);
        if (found.isEmpty()) {
            return Optional.empty();
        }
        return value(found.get(found.size() - 1), "TZOFFSETTO").flatMap(text -> {
            try {
                return Optional.of(
                        ZoneOffset.of(text.length() == 7 ? text : text.substring(0, Math.min(5, text.length()))));
            } catch (DateTimeException malformed) {
                return Optional.empty();
            }
        });
    }

    /** Summer time begins in the second half of the year there. */
    private static boolean isSouthern(Block timezone) {
        List<Block> found = timezone.inside("DAYLIGHT");
        return !found.isEmpty()
                && value(found.get(found.size() - 1), "RRULE")
                        .map(rule -> rule.toUpperCase(Locale.ROOT))
                        .filter(rule -> rule.matches(".*BYMONTH=(8|9|10|11|12)\\b.*"))
                        .isPresent();
    }

    private static Optional<String> value(Block block, String name) {
        return ContentLines.of(block.lines(), "calendar").stream()
                .filter(line -> line.name.equals(name))
                .map(line -> line.value.strip())
                .findFirst();
    }
}
