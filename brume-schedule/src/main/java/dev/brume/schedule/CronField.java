package dev.brume.schedule;

import java.util.List;
import java.util.Locale;

/** The fields of a cron expression: their names, ranges and words. */
enum CronField {
    SECOND("second", 0, 59, List.of()),
    MINUTE("minute", 0, 59, List.of()),
    HOUR("hour", 0, 23, List.of()),
    DAY_OF_MONTH("day-of-month", 1, 31, List.of()),
    MONTH("month", 1, 12, List.of("JAN", "FEB", "MAR", "APR", "MAY", "JUN", "JUL", "AUG", "SEP", "OCT", "NOV", "DEC")),
    DAY_OF_WEEK("day-of-week", 0, 7, List.of("SUN", "MON", "TUE", "WED", "THU", "FRI", "SAT"));

    private final String label;
    private final int min;
    private final int max;
    private final List<String> names;

    CronField(String label, int min, int max, List<String> names) {
        this.label = label;
        this.min = min;
        this.max = max;
        this.names = names;
    }

    String label() {
        return label;
    }

    int min() {
        return min;
    }

    /** The greatest number that may be written; 7 for day-of-week, where it means Sunday like 0. */
    int max() {
        return max;
    }

    /** How many different values there are from {@link #min()} on. */
    int size() {
        return this == DAY_OF_WEEK ? 7 : max - min + 1;
    }

    List<String> names() {
        return names;
    }

    /** {@return the number a name stands for, or -1} */
    int numberOf(String name) {
        int at = names.indexOf(name.toUpperCase(Locale.ROOT));
        return at < 0 ? -1 : at + min;
    }

    boolean isDay() {
        return this == DAY_OF_MONTH || this == DAY_OF_WEEK;
    }

    /** What may stand in this field, for messages. */
    String allowed() {
        return switch (this) {
            case DAY_OF_MONTH -> "1-31, *, ?, L, L-n, nW, LW, lists, ranges and steps";
            case MONTH -> "1-12 or JAN-DEC, *, lists, ranges and steps";
            case DAY_OF_WEEK -> "0-7 or SUN-SAT (0 and 7 are Sunday), *, ?, nL, n#1 to n#5, lists, ranges and steps";
            default -> min + "-" + max + ", *, lists, ranges and steps";
        };
    }
}
