package dev.brume.schedule;

import java.time.DateTimeException;
import java.time.LocalTime;
import java.util.Objects;

/**
 * The part of each day, by the wall clock, in which occurrences are owed: from inclusive, until exclusive. A
 * window that ends before it begins crosses midnight. Times are cut to seconds. Immutable.
 *
 * @param from its beginning
 * @param until its end; midnight stands for the end of the day, so that from midnight to midnight is all of it
 * @since 0.1.0
 */
public record DailyWindow(LocalTime from, LocalTime until) {

    /** Checks that it is not empty. */
    public DailyWindow {
        from = Objects.requireNonNull(from, "from").withNano(0);
        until = Objects.requireNonNull(until, "until").withNano(0);
        if (from.equals(until) && !from.equals(LocalTime.MIDNIGHT)) {
            String text = from + "-" + until;
            throw ScheduleSyntaxException.of(
                    text, ScheduleProblem.of("window", text, 0, "is empty: it ends where it begins"));
        }
    }

    /**
     * Reads a window such as {@code 08:00-18:00}, {@code 22:00-06:00} or {@code 18:30-24:00}.
     *
     * @throws ScheduleSyntaxException if the text is no window
     */
    public static DailyWindow parse(String text) {
        String[] ends = text.strip().split("\\s*-\\s*", -1);
        if (ends.length == 2) {
            try {
                LocalTime until = ends[1].matches("24:00(:00)?") ? LocalTime.MIDNIGHT : LocalTime.parse(ends[1]);
                return new DailyWindow(LocalTime.parse(ends[0]), until);
            } catch (DateTimeException malformed) {
                throw malformed(text);
            }
        }
        throw malformed(text);
    }

    private static ScheduleSyntaxException malformed(String text) {
        String shown = text.length() > 40 ? text.substring(0, 40) + "…" : text;
        return ScheduleSyntaxException.of(
                shown,
                ScheduleProblem.of("window", shown, 0, "is not a daily window (expected for example 08:00-18:00)"));
    }

    Stretches stretches() {
        long first = from.toSecondOfDay();
        long last = until.equals(LocalTime.MIDNIGHT) ? Stretches.DAY : until.toSecondOfDay();
        return new Stretches.Daily(first, last > first ? last - first : last + Stretches.DAY - first);
    }

    /** {@return the text that {@link #parse} reads back} */
    @Override
    public String toString() {
        return from + "-" + (until.equals(LocalTime.MIDNIGHT) ? "24:00" : until);
    }
}
