package dev.brume.schedule;

import java.util.ArrayList;
import java.util.List;

/**
 * A field of a cron expression as it was understood.
 *
 * @param name such as {@code day-of-month}
 * @param text as written, in upper case; {@code 0} for a second that was left out
 * @param values the fixed values it allows, in order, weekdays from 0 for Sunday
 * @param restricted false only for a day field that is exactly {@code *} or {@code ?}
 * @param every whether it allows every value there is
 * @param words what a day field says of days that depend on the month, in English; empty for all else
 * @since 0.1.0
 */
public record CronFieldReading(
        String name, String text, List<Integer> values, boolean restricted, boolean every, String words) {

    static CronFieldReading of(CronField field, CronFieldSet set, String words) {
        List<Integer> values = new ArrayList<>();
        for (int value = set.atOrAfter(0); value >= 0; value = set.atOrAfter(value + 1)) {
            values.add(value);
        }
        return new CronFieldReading(
                field.label(), set.text(), List.copyOf(values), set.restricted(), set.count() == field.size(), words);
    }
}
