package dev.brume.ical;

import dev.brume.ical.RuleParts.Day;
import dev.brume.ical.RuleParts.Unit;
import dev.brume.schedule.Words;
import java.time.LocalDateTime;
import java.time.Month;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.TextStyle;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Puts a rule into one sentence. */
final class RuleWords {
    private final Words common;
    private final Words words;

    private RuleWords(Locale locale) {
        common = Words.in(locale);
        words = Words.in("dev.brume.ical.words", locale, RuleWords.class.getClassLoader());
    }

    static String of(
            Optional<RuleParts> parts, LocalDateTime start, ZoneId zone, int added, int excluded, Locale locale) {
        RuleWords own = new RuleWords(locale);
        String said = parts.map(rule -> own.rule(rule, start, zone))
                .orElseGet(() -> own.words.say("rule.once", own.common.moment(start), own.common.zone(zone)));
        said = added == 0 ? said : own.words.say("rule.added", said, added);
        return excluded == 0 ? said : own.words.say("rule.excluded", said, excluded);
    }

    private String rule(RuleParts parts, LocalDateTime start, ZoneId zone) {
        String said = words.say("every." + parts.unit(), parts.interval());
        said = days(said, parts);
        said = times(said, parts, start);
        if (!parts.positions().isEmpty()) {
            said = words.say("positions", said, common.list(ordinals(parts.positions())));
        }
        said = words.say("rule", said, common.zone(zone), common.moment(start));
        if (parts.until() != Long.MAX_VALUE) {
            LocalDateTime until = LocalDateTime.ofEpochSecond(parts.until(), 0, ZoneOffset.UTC);
            said = words.say("rule.until", said, common.moment(until));
        }
        return parts.count().isPresent()
                ? words.say("rule.count", said, parts.count().getAsInt())
                : said;
    }

    private String days(String every, RuleParts parts) {
        String said = every;
        if (!parts.weeks().isEmpty()) {
            said = numbered(said, "in", "weeks", parts.weeks());
        }
        if (!parts.yearDays().isEmpty()) {
            said = numbered(said, "on", "yearDays", parts.yearDays());
        }
        if (!parts.monthDays().isEmpty()) {
            said = numbered(said, "on", "monthDays", parts.monthDays());
        }
        if (!parts.days().isEmpty()) {
            said = words.say(
                    "on",
                    said,
                    common.list(parts.days().stream().map(this::weekday).toList()));
        }
        if (!parts.months().isEmpty()) {
            List<String> months = parts.months().stream()
                    .map(month -> Month.of(month).getDisplayName(TextStyle.FULL_STANDALONE, words.locale()))
                    .toList();
            said = words.say("in", said, common.list(months));
        }
        return said;
    }

    private String times(String every, RuleParts parts, LocalDateTime start) {
        if (parts.unit().compareTo(Unit.DAY) >= 0) {
            return words.say("at", every, common.list(timesOfDay(parts, start)));
        }
        String said = every;
        if (!parts.hours().isEmpty()) {
            said = numbered(said, "in", "hours", parts.hours());
        }
        if (!parts.minutes().isEmpty()) {
            said = numbered(said, "at", "minutes", parts.minutes());
        }
        return parts.seconds().isEmpty() ? said : numbered(said, "at", "seconds", parts.seconds());
    }

    private static List<String> timesOfDay(RuleParts parts, LocalDateTime start) {
        List<String> times = new ArrayList<>();
        for (int hour : parts.hours().isEmpty() ? List.of(start.getHour()) : parts.hours()) {
            for (int minute : parts.minutes().isEmpty() ? List.of(start.getMinute()) : parts.minutes()) {
                for (int second : parts.seconds().isEmpty() ? List.of(start.getSecond()) : parts.seconds()) {
                    times.add(start.toLocalDate()
                            .atTime(hour, minute, second)
                            .toLocalTime()
                            .toString());
                }
            }
        }
        return times;
    }

    private String numbered(String said, String how, String what, List<Integer> numbers) {
        return words.say(how, said, words.say(what, numbers.size(), common.list(counted(numbers))));
    }

    /** Numbers, those from the end in words. */
    private List<String> counted(List<Integer> numbers) {
        return numbers.stream()
                .map(number -> number >= 0
                        ? number.toString()
                        : number == -1 ? words.say("last") : words.say("fromLast", -number))
                .toList();
    }

    private List<String> ordinals(List<Integer> numbers) {
        return numbers.stream()
                .map(number -> number > 0
                        ? nth(number)
                        : number == -1 ? words.say("last") : words.say("fromLast", nth(-number)))
                .toList();
    }

    private String nth(int number) {
        return number <= 5 ? common.say("ordinal." + number) : words.say("nth", number);
    }

    private String weekday(Day day) {
        String name = day.weekday().getDisplayName(TextStyle.FULL_STANDALONE, words.locale());
        if (day.ordinal() == 0) {
            return words.say("weekday.each", name);
        }
        if (day.ordinal() == -1) {
            return words.say("weekday.last", name);
        }
        return day.ordinal() > 0
                ? words.say("weekday.nth", nth(day.ordinal()), name)
                : words.say("weekday.fromLast", nth(-day.ordinal()), name);
    }
}
