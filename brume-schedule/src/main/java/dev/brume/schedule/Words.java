package dev.brume.schedule;

import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/** Pieces of English that schedules are explained with. */
final class Words {
    private static final DateTimeFormatter MOMENT =
            DateTimeFormatter.ofPattern("EEEE d MMMM uuuu 'at' HH:mm", Locale.ENGLISH);
    private static final DateTimeFormatter EXACT =
            DateTimeFormatter.ofPattern("EEEE d MMMM uuuu 'at' HH:mm:ss", Locale.ENGLISH);

    private Words() {}

    /** {@code Azores time}; the plain id where that would not name it. */
    static String zone(ZoneId zone) {
        String id = zone.getId();
        if (id.equals("UTC") || id.equals("Z") || id.equals("Etc/UTC")) {
            return "UTC";
        }
        boolean region = id.indexOf('/') > 0 && !id.startsWith("Etc/");
        return region ? id.substring(id.lastIndexOf('/') + 1).replace('_', ' ') + " time" : "at " + id;
    }

    static String moment(LocalDateTime local) {
        return local.format(local.getSecond() == 0 ? MOMENT : EXACT);
    }

    /** {@code 30 seconds}, {@code hour and 30 minutes}: to follow "every". */
    static String duration(Duration duration) {
        List<String> parts = new ArrayList<>();
        part(parts, duration.toDaysPart(), "day");
        part(parts, duration.toHoursPart(), "hour");
        part(parts, duration.toMinutesPart(), "minute");
        part(parts, duration.toSecondsPart(), "second");
        part(parts, duration.toMillisPart(), "millisecond");
        return parts.size() == 1 && parts.get(0).startsWith("1 ") ? parts.get(0).substring(2) : list(parts);
    }

    private static void part(List<String> parts, long amount, String unit) {
        if (amount > 0) {
            parts.add(amount + " " + unit + (amount == 1 ? "" : "s"));
        }
    }

    /** {@code a}, {@code a and b}, {@code a, b and c}. */
    static String list(List<String> parts) {
        int last = parts.size() - 1;
        return last < 1
                ? String.join("", parts)
                : String.join(", ", parts.subList(0, last)) + " and " + parts.get(last);
    }
}
