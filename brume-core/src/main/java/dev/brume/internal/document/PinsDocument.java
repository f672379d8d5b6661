package dev.brume.internal.document;

import dev.brume.schedule.Counting;
import dev.brume.spi.Pins;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** Writes what a version pins as a document, and reads it back. Stateless and safe for use by many threads. */
public final class PinsDocument {
    private PinsDocument() {}

    /** Writes pins; an empty document stands for none. */
    public static Map<String, Object> write(Pins pins) {
        Map<String, Object> document = new LinkedHashMap<>();
        if (!pins.calendars().isEmpty()) {
            document.put("calendars", new TreeMap<>(pins.calendars()));
        }
        if (!pins.schedules().isEmpty()) {
            document.put(
                    "schedules",
                    pins.schedules().stream().map(PinsDocument::write).toList());
        }
        return document;
    }

    private static Map<String, Object> write(Pins.SchedulePin pin) {
        Map<String, Object> document = new LinkedHashMap<>();
        pin.counting().ifPresent(counting -> {
            document.put("defined", counting.defined().toString());
            document.put("since", counting.since().toString());
            document.put("owed", counting.owed());
        });
        if (!pin.satisfied().isEmpty()) {
            document.put(
                    "satisfied",
                    pin.satisfied().stream()
                            .sorted()
                            .map(LocalDateTime::toString)
                            .toList());
        }
        return document;
    }

    /** Reads what {@link #write} wrote. */
    public static Pins read(Map<?, ?> document, String tzdata) {
        Map<String, Integer> calendars = new LinkedHashMap<>();
        if (document.get("calendars") instanceof Map<?, ?> map) {
            map.forEach((name, number) -> calendars.put((String) name, ((Number) number).intValue()));
        }
        List<Pins.SchedulePin> schedules = new ArrayList<>();
        if (document.get("schedules") instanceof List<?> list) {
            list.forEach(item -> schedules.add(pin((Map<?, ?>) item)));
        }
        return new Pins(calendars, schedules, tzdata);
    }

    private static Pins.SchedulePin pin(Map<?, ?> document) {
        Optional<Counting> counting = document.get("owed") instanceof Number owed
                ? Optional.of(new Counting(
                        Instant.parse((String) document.get("defined")),
                        Instant.parse((String) document.get("since")),
                        owed.longValue()))
                : Optional.empty();
        Set<LocalDateTime> satisfied = new LinkedHashSet<>();
        if (document.get("satisfied") instanceof List<?> list) {
            list.forEach(text -> satisfied.add(LocalDateTime.parse((String) text)));
        }
        return new Pins.SchedulePin(counting, satisfied);
    }
}
