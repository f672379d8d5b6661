package dev.brume.schedule;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.ZoneId;
import java.time.zone.ZoneRulesException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Reads zone names.
 *
 * <p>Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Zones {
    private static final Map<String, String> ABBREVIATIONS = Map.ofEntries(
            Map.entry("CET", "Europe/Paris"),
            Map.entry("CEST", "Europe/Paris"),
            Map.entry("WET", "Europe/Lisbon"),
            Map.entry("WEST", "Europe/Lisbon"),
            Map.entry("EET", "Europe/Athens"),
            Map.entry("BST", "Europe/London"),
            Map.entry("AST", "America/Halifax"),
            Map.entry("EST", "America/New_York"),
            Map.entry("EDT", "America/New_York"),
            Map.entry("CST", "America/Chicago"),
            Map.entry("CDT", "America/Chicago"),
            Map.entry("MST", "America/Denver"),
            Map.entry("PST", "America/Los_Angeles"),
            Map.entry("PDT", "America/Los_Angeles"),
            Map.entry("IST", "Asia/Kolkata"),
            Map.entry("JST", "Asia/Tokyo"));

    /** One region for most offsets, the likelier first. */
    private static final List<String> WELL_KNOWN = List.of(
            "Europe/Lisbon",
            "Europe/Paris",
            "Europe/Athens",
            "Europe/Istanbul",
            "Atlantic/Azores",
            "America/Halifax",
            "America/New_York",
            "America/Chicago",
            "America/Denver",
            "America/Los_Angeles",
            "America/Sao_Paulo",
            "America/Noronha",
            "America/Anchorage",
            "Pacific/Honolulu",
            "Asia/Dubai",
            "Asia/Karachi",
            "Asia/Kolkata",
            "Asia/Dhaka",
            "Asia/Bangkok",
            "Asia/Singapore",
            "Asia/Tokyo",
            "Australia/Sydney",
            "Australia/Adelaide",
            "Pacific/Auckland");

    private Zones() {}

    /**
     * Reads the name of an IANA zone, or {@code UTC}, or an offset such as {@code +02:00}.
     *
     * @throws ScheduleSyntaxException if there is no such zone; it suggests the nearest one
     */
    public static ZoneId parse(String name) {
        try {
            return ZoneId.of(name);
        } catch (ZoneRulesException unknown) {
            throw ScheduleSyntaxException.of(name, unknown(name, "is not a known IANA zone"));
        } catch (DateTimeException malformed) {
            throw ScheduleSyntaxException.of(
                    name, unknown(name, name.isBlank() ? "is empty" : "is not the name of a zone"));
        }
    }

    /** {@return what to write instead of a zone name that has no summer time of its own, if it is one} */
    public static Optional<String> regionInsteadOf(String name) {
        return Optional.ofNullable(ABBREVIATIONS.get(name));
    }

    /**
     * {@return a region to name instead of a zone that is none: an abbreviation, or a fixed offset other than UTC}
     *
     * @param now when the region has that offset
     */
    public static Optional<String> regionInsteadOf(ZoneId zone, Instant now) {
        String id = zone.getId();
        boolean region = id.indexOf('/') > 0 && !id.startsWith("Etc/");
        boolean utc = zone.getRules().isFixedOffset()
                && zone.getRules().getOffset(now).getTotalSeconds() == 0;
        if (region || utc) {
            return Optional.empty();
        }
        int offset = zone.getRules().getOffset(now).getTotalSeconds();
        return regionInsteadOf(id)
                .or(() -> WELL_KNOWN.stream()
                        .filter(other ->
                                ZoneId.of(other).getRules().getOffset(now).getTotalSeconds() == offset)
                        .findFirst())
                .or(() -> Optional.of("Europe/Lisbon"));
    }

    private static ScheduleProblem unknown(String name, String rule) {
        ScheduleProblem problem =
                ScheduleProblem.of("zone", name, 0, rule + " (expected a region such as Europe/Lisbon, or UTC)");
        return suggestion(name).map(problem::suggesting).orElse(problem);
    }

    private static Optional<String> suggestion(String name) {
        Optional<String> region = regionInsteadOf(name);
        if (region.isPresent()) {
            return region;
        }
        Set<String> ids = ZoneId.getAvailableZoneIds();
        Optional<String> whole = Nearest.to(name.replace(' ', '_'), ids);
        return whole.isPresent() ? whole : byCity(name, ids);
    }

    /** Someone who writes {@code Lisbon} means {@code Europe/Lisbon}. */
    private static Optional<String> byCity(String name, Set<String> ids) {
        List<String> cities = new ArrayList<>();
        ids.stream().sorted().filter(id -> id.indexOf('/') > 0).forEach(id -> cities.add(cityOf(id)));
        return Nearest.to(cityOf(name.replace(' ', '_')), cities)
                .flatMap(city -> ids.stream()
                        .sorted()
                        .filter(id -> id.indexOf('/') > 0 && cityOf(id).equals(city))
                        .findFirst());
    }

    private static String cityOf(String id) {
        return id.substring(id.lastIndexOf('/') + 1);
    }
}
