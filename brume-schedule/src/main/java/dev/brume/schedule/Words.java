package dev.brume.schedule;

import java.text.MessageFormat;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.ResourceBundle;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The texts of one language that schedules are explained with, from resource bundles. Immutable and safe for use by
 * many threads.
 *
 * @since 0.1.0
 */
public final class Words {
    private static final String BUNDLE = "dev.brume.schedule.words";
    private static final Map<List<Object>, Words> KNOWN = new ConcurrentHashMap<>();

    private final Locale locale;
    private final ResourceBundle texts;

    private Words(String bundle, Locale locale, ClassLoader loader) {
        this.texts = ResourceBundle.getBundle(
                bundle,
                locale,
                loader,
                ResourceBundle.Control.getNoFallbackControl(ResourceBundle.Control.FORMAT_PROPERTIES));
        // The root texts are English; names of days and months must not be of another language than they.
        this.locale = texts.getLocale().equals(Locale.ROOT) ? Locale.ENGLISH : locale;
    }

    /** {@return the texts of this module in a language, English where there are none of it} */
    public static Words in(Locale locale) {
        return in(BUNDLE, locale, Words.class.getClassLoader());
    }

    /** {@return the texts of a bundle in a language, those of its root where there are none of it} */
    public static Words in(String bundle, Locale locale, ClassLoader loader) {
        return KNOWN.computeIfAbsent(List.of(bundle, locale), key -> new Words(bundle, locale, loader));
    }

    /** {@return the language} */
    public Locale locale() {
        return locale;
    }

    /** {@return a text with its places filled in; numbers are written without grouping} */
    public String say(String key, Object... parts) {
        String pattern = texts.getString(key);
        if (parts.length == 0) {
            return pattern;
        }
        Object[] values = new Object[parts.length];
        for (int i = 0; i < parts.length; i++) {
            boolean chosen = pattern.contains("{" + i + ",choice");
            values[i] = chosen || !(parts[i] instanceof Number) ? parts[i] : parts[i].toString();
        }
        return new MessageFormat(pattern, locale).format(values);
    }

    /** Names a zone: {@code Azores time}; the plain id where that would not name it. */
    public String zone(ZoneId zone) {
        String id = zone.getId();
        if (id.equals("UTC") || id.equals("Z") || id.equals("Etc/UTC")) {
            return say("zone.utc");
        }
        boolean region = id.indexOf('/') > 0 && !id.startsWith("Etc/");
        return region
                ? say("zone.region", id.substring(id.lastIndexOf('/') + 1).replace('_', ' '))
                : say("zone.other", id);
    }

    /** Names a local time: {@code Friday 14 May 2027 at 06:00}. */
    public String moment(LocalDateTime local) {
        String key = local.getSecond() == 0 ? "moment" : "moment.exact";
        return local.format(DateTimeFormatter.ofPattern(say(key).replace("''", "'"), locale));
    }

    /** Names a duration to follow "every": {@code 30 seconds}, {@code hour and 30 minutes}, {@code minute}. */
    public String duration(Duration duration) {
        List<String> units = units(duration);
        boolean single = duration.equals(Duration.ofDays(1))
                || duration.equals(Duration.ofHours(1))
                || duration.equals(Duration.ofMinutes(1))
                || duration.equals(Duration.ofSeconds(1));
        return single ? say("one." + unitOf(duration)) : list(units);
    }

    /** Names a duration: {@code 30 seconds}, {@code 1 minute}. */
    public String amount(Duration duration) {
        return list(units(duration));
    }

    private static String unitOf(Duration one) {
        return one.toDays() == 1 ? "day" : one.toHours() == 1 ? "hour" : one.toMinutes() == 1 ? "minute" : "second";
    }

    private List<String> units(Duration duration) {
        List<String> parts = new ArrayList<>();
        part(parts, duration.toDaysPart(), "unit.day");
        part(parts, duration.toHoursPart(), "unit.hour");
        part(parts, duration.toMinutesPart(), "unit.minute");
        part(parts, duration.toSecondsPart(), "unit.second");
        part(parts, duration.toMillisPart(), "unit.millisecond");
        return parts;
    }

    private void part(List<String> parts, long amount, String key) {
        if (amount > 0) {
            parts.add(say(key, amount));
        }
    }

    /** Joins texts: {@code a}, {@code a and b}, {@code a, b and c}. */
    public String list(List<String> parts) {
        if (parts.isEmpty()) {
            return "";
        }
        String listed = parts.get(0);
        for (int i = 1; i < parts.size(); i++) {
            listed = say(i == parts.size() - 1 ? "list.pair" : "list.join", listed, parts.get(i));
        }
        return listed;
    }

    /** A sentence with what terms add to it. */
    String with(String sentence, Terms terms, ZoneId zone) {
        String said = sentence;
        if (!terms.onlyOn().isEmpty()) {
            said = say("terms.onlyOn", said, names(terms.onlyOn()));
        }
        if (!terms.notOn().isEmpty()) {
            said = say("terms.notOn", said, names(terms.notOn()));
        }
        said = switch (terms.ifDayOff()) {
            case SKIP -> said;
            case NEXT -> say("terms.next", said);
            case PREVIOUS -> say("terms.previous", said);
        };
        if (terms.window().isPresent()) {
            DailyWindow window = terms.window().get();
            String end = window.until().equals(LocalTime.MIDNIGHT)
                    ? "24:00"
                    : window.until().toString();
            said = say("terms.window", said, window.from().toString(), end);
        }
        if (terms.from().isPresent()) {
            said = say("terms.from", said, moment(terms.from().get(), zone));
        }
        if (terms.until().isPresent()) {
            said = say("terms.until", said, moment(terms.until().get(), zone));
        }
        return terms.atMost().isPresent()
                ? say("terms.atMost", said, terms.atMost().getAsLong())
                : said;
    }

    private String moment(Moment moment, ZoneId zone) {
        return moment(LocalDateTime.ofInstant(moment.instant(), zone));
    }

    private String names(List<DayCalendar> calendars) {
        return list(calendars.stream().map(DayCalendar::name).toList());
    }
}
