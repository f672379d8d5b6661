package dev.brume.definitions.phrase;

import dev.brume.FollowUp;
import dev.brume.JobName;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Zones;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.time.temporal.TemporalAdjusters;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.function.BiConsumer;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * The parts of a phrase as people choose and type them, by the names that the API, the page and the embedded form share.
 *
 * @since 0.1.0
 */
public final class PhraseParts {
    /** The names of all parts. */
    public static final List<String> KEYS = List.of(
            "pattern",
            "days",
            "weekdays",
            "which",
            "weekday",
            "monthDays",
            "months",
            "weeks",
            "first",
            "times",
            "interval",
            "window",
            "at",
            "after",
            "on",
            "zone",
            "notOn",
            "ifDayOff",
            "gap",
            "fold");

    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);
    private static final Map<String, Integer> WHICH = words(
            List.of("first", "second", "third", "fourth", "last"), List.of(1, 2, 3, 4, OnDays.WeekdayOfMonth.LAST));
    private static final Map<String, IfDayOff> MOVES =
            words(List.of("skip", "next", "previous"), List.of(IfDayOff.SKIP, IfDayOff.NEXT, IfDayOff.PREVIOUS));
    private static final Map<String, Gap> GAPS = words(List.of("after", "skip"), List.of(Gap.AFTER, Gap.SKIP));
    private static final Map<String, Fold> FOLDS =
            words(List.of("first", "last", "both"), List.of(Fold.FIRST, Fold.LAST, Fold.BOTH));
    private static final Map<String, FollowUp.On> ENDS = words(
            List.of("success", "failure", "end"), List.of(FollowUp.On.SUCCESS, FollowUp.On.FAILURE, FollowUp.On.END));
    private static final Map<String, DayOfWeek> WEEKDAYS = shortNames(DayOfWeek.values());
    private static final Map<String, Month> MONTHS = shortNames(Month.values());

    /** How often: the words of {@code pattern}. */
    private static final Map<String, Kind> KINDS = words(
            List.of("times", "interval", "fixed", "once", "after"),
            List.of(Kind.TIMES, Kind.INTERVAL, Kind.FIXED, Kind.ONCE, Kind.AFTER));

    private static final Map<String, DayKind> DAYS = words(
            List.of("each", "working", "weekdays", "weekdayOfMonth", "workingDayOfMonth", "daysOfMonth", "fewWeeks"),
            List.of(
                    DayKind.EACH,
                    DayKind.WORKING,
                    DayKind.WEEKDAYS,
                    DayKind.WEEKDAY_OF_MONTH,
                    DayKind.WORKING_DAY_OF_MONTH,
                    DayKind.DAYS_OF_MONTH,
                    DayKind.FEW_WEEKS));

    private enum Kind {
        TIMES,
        INTERVAL,
        FIXED,
        ONCE,
        AFTER
    }

    private enum DayKind {
        EACH,
        WORKING,
        WEEKDAYS,
        WEEKDAY_OF_MONTH,
        WORKING_DAY_OF_MONTH,
        DAYS_OF_MONTH,
        FEW_WEEKS
    }

    private final Fields fields;
    private final Optional<ZoneId> zone;
    private final LocalDate today;

    private PhraseParts(Fields fields, Instant now) {
        this.fields = fields;
        zone = typed("zone").flatMap(text -> fields.read("zone", () -> Zones.parse(text)));
        today = LocalDate.ofInstant(now, zone.orElse(ZoneId.of("UTC")));
    }

    private static <T> Map<String, T> words(List<String> names, List<T> values) {
        Map<String, T> words = new LinkedHashMap<>();
        for (int i = 0; i < names.size(); i++) {
            words.put(names.get(i), values.get(i));
        }
        return words;
    }

    private static <E extends Enum<E>> Map<String, E> shortNames(E[] all) {
        Map<String, E> names = new LinkedHashMap<>();
        for (E each : all) {
            names.put(each.name().substring(0, 3), each);
        }
        return names;
    }

    private static <T> String word(Map<String, T> words, T value) {
        return words.entrySet().stream()
                .filter(each -> each.getValue().equals(value))
                .map(Map.Entry::getKey)
                .findFirst()
                .orElseThrow();
    }

    // Reading.

    /**
     * Reads a phrase; parts that its pattern does not have are left aside.
     *
     * @param pointer to the parts in what was sent, as RFC 6901 has it
     * @param parts as they were sent
     * @param now from which the day is taken that words such as tomorrow count from, by the clocks of the zone that was typed
     * @param wrong receives whatever is wrong, all of it: a pointer to it, and what is wrong and allowed
     * @return empty if anything was wrong
     */
    public static Optional<Phrase> read(String pointer, Object parts, Instant now, BiConsumer<String, String> wrong) {
        List<DocumentProblem> problems = new ArrayList<>();
        Optional<Phrase> phrase =
                Fields.open("", parts, KEYS, problems).flatMap(fields -> new PhraseParts(fields, now).phrase());
        problems.forEach(problem ->
                wrong.accept(pointer + (problem.path().isEmpty() ? "" : "/" + problem.path()), problem.message()));
        return problems.isEmpty() ? phrase : Optional.empty();
    }

    private Optional<Phrase> phrase() {
        if (!fields.has("zone")) {
            fields.note("zone", "is missing: name the zone whose clocks are meant, such as Europe/Lisbon");
        }
        Kind kind = fields.has("pattern")
                ? fields.word("pattern", KINDS).orElse(Kind.ONCE)
                : missing("pattern", "how often: " + String.join(", ", KINDS.keySet()), Kind.ONCE);
        Optional<Pattern> pattern = fields.has("pattern") ? pattern(kind) : Optional.empty();
        Optional<DaysOff> off = daysOff(kind);
        Optional<Clocks> clocks = kind == Kind.TIMES || kind == Kind.INTERVAL
                ? Optional.of(new Clocks(chosen("gap", GAPS), chosen("fold", FOLDS)))
                : Optional.of(Clocks.USUAL);
        return zone.flatMap(where -> pattern.flatMap(how -> off.flatMap(
                not -> clocks.flatMap(turns -> fields.readHere(() -> new Phrase(how, where, not, turns))))));
    }

    /** {@return the text of a part; empty where nothing was typed} */
    private Optional<String> typed(String key) {
        return fields.scalar(key).map(String::strip).filter(text -> !text.isEmpty());
    }

    private <T> T missing(String key, String what, T instead) {
        fields.note(key, "is missing: " + what);
        return instead;
    }

    private <T> Optional<T> chosen(String key, Map<String, T> words) {
        boolean usual = fields.raw(key).filter(value -> value.equals("")).isPresent();
        return usual ? Optional.empty() : fields.word(key, words);
    }

    private <T> Optional<T> needed(String key, String what, Function<String, T> reading) {
        Optional<String> text = typed(key);
        if (text.isEmpty()) {
            fields.note(key, "is missing: " + what);
        }
        return text.flatMap(given -> fields.read(key, () -> reading.apply(given)));
    }

    private Optional<Pattern> pattern(Kind kind) {
        return switch (kind) {
            case TIMES -> {
                Optional<OnDays> days = days();
                Optional<SortedSet<LocalTime>> times =
                        needed("times", "say at which times of the day, such as 8, 17:30", TypedTimes::times);
                yield days.flatMap(on -> times.flatMap(at -> fields.read("times", () -> Pattern.atTimes(on, at))));
            }
            case INTERVAL -> {
                Optional<OnDays> days = days();
                Optional<Integer> minutes = needed("interval", "say every how many minutes", PhraseParts::minutes);
                Optional<DailyWindow> window = window();
                yield days.flatMap(on ->
                        minutes.flatMap(every -> fields.read("interval", () -> Pattern.byTheClock(on, every, window))));
            }
            case FIXED ->
                needed("interval", "say how long from one to the next, such as 90m", PhraseParts::duration)
                        .flatMap(every -> fields.read("interval", () -> new Pattern.FixedInterval(every, window())));
            case ONCE ->
                needed("at", "say when, such as 2026-12-31 17:00", text -> TypedTimes.moment(text, today))
                        .map(Pattern.Once::new);
            case AFTER -> {
                Optional<JobName> job = needed("after", "say after which job", JobName::parse);
                Optional<FollowUp.On> on = fields.has("on") ? chosen("on", ENDS) : Optional.of(FollowUp.On.SUCCESS);
                yield job.flatMap(other -> on.map(end -> new Pattern.After(other, end)));
            }
        };
    }

    private static int minutes(String text) {
        if (text.matches("\\d{1,6}")) {
            return Integer.parseInt(text);
        }
        Duration duration = duration(text);
        if (duration.toSeconds() % 60 != 0) {
            throw new IllegalArgumentException("'" + text + "' is not whole minutes; choose a fixed interval");
        }
        return (int) Math.min(duration.toMinutes(), Integer.MAX_VALUE);
    }

    /** A bare number is minutes. */
    private static Duration duration(String text) {
        return text.matches("\\d{1,6}")
                ? Duration.ofMinutes(Integer.parseInt(text))
                : Durations.parse(text.toLowerCase(Locale.ROOT)
                        .replaceAll("\\s+", "")
                        .replaceAll("minutes?|mins?", "m")
                        .replaceAll("hours?|hrs?", "h")
                        .replaceAll("days?", "d")
                        .replaceAll("seconds?|secs?", "s"));
    }

    private Optional<DailyWindow> window() {
        return typed("window")
                .flatMap(text -> fields.read("window", () -> {
                    String[] ends = text.split("\\s*(-|–|\\bto\\b|\\buntil\\b)\\s*", -1);
                    if (ends.length != 2) {
                        throw new IllegalArgumentException(
                                "'" + text + "' is not a part of the day (expected for example 8:00-18:00)");
                    }
                    LocalTime until =
                            ends[1].strip().matches("24([:.]00)?") ? LocalTime.MIDNIGHT : TypedTimes.time(ends[1]);
                    return new DailyWindow(TypedTimes.time(ends[0]), until);
                }));
    }

    private Optional<OnDays> days() {
        if (!fields.has("days")) {
            fields.note("days", "is missing: on which days: " + String.join(", ", DAYS.keySet()));
            return Optional.empty();
        }
        return fields.word("days", DAYS).flatMap(kind -> switch (kind) {
            case EACH -> Optional.of(new OnDays.EachDay());
            case WORKING -> Optional.of(new OnDays.WorkingDays());
            case WEEKDAYS ->
                some("weekdays", WEEKDAYS).flatMap(days -> fields.read("weekdays", () -> OnDays.weekdays(days)));
            case WEEKDAY_OF_MONTH -> {
                Optional<Integer> which = fields.has("which") ? chosen("which", WHICH) : Optional.of(1);
                Optional<DayOfWeek> day = needed("weekday", "say which weekday", text -> named(text, WEEKDAYS));
                yield which.flatMap(number -> day.flatMap(weekday -> months().flatMap(months ->
                        fields.read("which", () -> new OnDays.WeekdayOfMonth(number, weekday, months)))));
            }
            case WORKING_DAY_OF_MONTH -> {
                Optional<Integer> which = fields.has("which") ? chosen("which", WHICH) : Optional.of(1);
                if (which.filter(number -> number > 1 && number < OnDays.WeekdayOfMonth.LAST)
                        .isPresent()) {
                    fields.note("which", "of the working days of a month only the first and the last can be chosen");
                    yield Optional.empty();
                }
                yield which.flatMap(number -> months().map(
                                months -> new OnDays.WorkingDayOfMonth(number == OnDays.WeekdayOfMonth.LAST, months)));
            }
            case DAYS_OF_MONTH ->
                needed("monthDays", "say which days, such as 1, 15, last", TypedTimes::daysOfMonth)
                        .flatMap(days -> months().flatMap(months ->
                                fields.read("monthDays", () -> new OnDays.DaysOfMonth(new TreeSet<>(days), months))));
            case FEW_WEEKS -> fewWeeks();
        });
    }

    private Optional<OnDays> fewWeeks() {
        Optional<Integer> weeks = needed("weeks", "say every how many weeks", text -> {
            if (!text.matches("\\d{1,3}")) {
                throw new IllegalArgumentException("'" + text + "' is not a number of weeks");
            }
            return Integer.parseInt(text);
        });
        Optional<Set<DayOfWeek>> days = some("weekdays", WEEKDAYS);
        Optional<LocalDate> from = typed("first").isEmpty()
                ? Optional.of(today)
                : typed("first").flatMap(text -> fields.read("first", () -> TypedTimes.date(text, today)));
        return weeks.flatMap(every -> days.flatMap(on -> from.flatMap(start -> fields.read("weeks", () -> {
            LocalDate first = on.stream()
                    .map(day -> start.with(TemporalAdjusters.nextOrSame(day)))
                    .min(LocalDate::compareTo)
                    .orElseThrow(() -> new IllegalArgumentException("no weekday is chosen"));
            return every == 1 ? OnDays.weekdays(on) : new OnDays.EveryFewWeeks(every, on, first);
        }))));
    }

    private Optional<Set<Month>> months() {
        Optional<Set<Month>> some = fields.has("months") ? some("months", MONTHS) : Optional.of(OnDays.ALL_MONTHS);
        return some.map(months -> months.isEmpty() ? OnDays.ALL_MONTHS : months);
    }

    private <T> Optional<Set<T>> some(String key, Map<String, T> names) {
        Optional<List<String>> texts = texts(key);
        return texts.flatMap(all -> fields.read(
                key, () -> all.stream().map(text -> named(text, names)).collect(Collectors.toSet())));
    }

    /** {@return a list, or what stands between commas; none where nothing was sent} */
    private Optional<List<String>> texts(String key) {
        if (fields.raw(key).filter(List.class::isInstance).isPresent()) {
            return fields.texts(key);
        }
        List<String> parts = new ArrayList<>();
        for (String part : typed(key).orElse("").split("[,\\s]+")) {
            if (!part.isEmpty()) {
                parts.add(part);
            }
        }
        return Optional.of(parts);
    }

    private static <T> T named(String text, Map<String, T> names) {
        String start = text.length() < 3 ? text : text.substring(0, 3).toUpperCase(Locale.ROOT);
        T value = names.get(start);
        if (value == null) {
            throw new IllegalArgumentException("'" + (text.length() > 20 ? text.substring(0, 20) + "…" : text)
                    + "' is not one of " + String.join(", ", names.keySet()));
        }
        return value;
    }

    private Optional<DaysOff> daysOff(Kind kind) {
        Optional<List<String>> names = texts("notOn");
        Optional<IfDayOff> move = fields.has("ifDayOff") ? chosen("ifDayOff", MOVES) : Optional.of(IfDayOff.SKIP);
        if (kind == Kind.ONCE || kind == Kind.AFTER) {
            return Optional.of(DaysOff.NONE);
        }
        return names.flatMap(calendars -> fields.read(
                "notOn",
                () -> new DaysOff(
                        calendars,
                        calendars.isEmpty() || kind == Kind.FIXED ? IfDayOff.SKIP : move.orElse(IfDayOff.SKIP))));
    }

    // Writing.

    /** {@return the parts of a phrase, as {@link #read} reads them; those it does not have are left out} */
    public static Map<String, Object> write(Phrase phrase) {
        Map<String, Object> parts = new LinkedHashMap<>();
        Pattern pattern = phrase.pattern();
        if (pattern instanceof Pattern.AtTimes at) {
            parts.put("pattern", word(KINDS, Kind.TIMES));
            write(at.days(), parts);
            parts.put("times", at.times().stream().map(CLOCK::format).collect(Collectors.joining(", ")));
        } else if (pattern instanceof Pattern.ByTheClock clock) {
            parts.put("pattern", word(KINDS, Kind.INTERVAL));
            write(clock.days(), parts);
            parts.put("interval", String.valueOf(clock.minutes()));
            clock.window().ifPresent(window -> parts.put("window", window.toString()));
        } else if (pattern instanceof Pattern.FixedInterval fixed) {
            parts.put("pattern", word(KINDS, Kind.FIXED));
            parts.put("interval", Durations.format(fixed.interval()));
            fixed.window().ifPresent(window -> parts.put("window", window.toString()));
        } else if (pattern instanceof Pattern.Once once) {
            parts.put("pattern", word(KINDS, Kind.ONCE));
            parts.put("at", once.at().toString().replace('T', ' '));
        } else if (pattern instanceof Pattern.After after) {
            parts.put("pattern", word(KINDS, Kind.AFTER));
            parts.put("after", after.job().toString());
            parts.put("on", word(ENDS, after.on()));
        }
        parts.put("zone", phrase.zone().getId());
        if (!phrase.daysOff().calendars().isEmpty()) {
            parts.put("notOn", phrase.daysOff().calendars());
            parts.put("ifDayOff", word(MOVES, phrase.daysOff().move()));
        }
        phrase.clocks().gap().ifPresent(gap -> parts.put("gap", word(GAPS, gap)));
        phrase.clocks().fold().ifPresent(fold -> parts.put("fold", word(FOLDS, fold)));
        return parts;
    }

    private static void write(OnDays days, Map<String, Object> parts) {
        if (days instanceof OnDays.EachDay) {
            parts.put("days", word(DAYS, DayKind.EACH));
        } else if (days instanceof OnDays.WorkingDays) {
            parts.put("days", word(DAYS, DayKind.WORKING));
        } else if (days instanceof OnDays.Weekdays some) {
            parts.put("days", word(DAYS, DayKind.WEEKDAYS));
            parts.put("weekdays", names(some.days()));
        } else if (days instanceof OnDays.WeekdayOfMonth one) {
            parts.put("days", word(DAYS, DayKind.WEEKDAY_OF_MONTH));
            parts.put("which", word(WHICH, one.which()));
            parts.put("weekday", names(Set.of(one.day())).get(0));
            writeMonths(one.months(), parts);
        } else if (days instanceof OnDays.WorkingDayOfMonth working) {
            parts.put("days", word(DAYS, DayKind.WORKING_DAY_OF_MONTH));
            parts.put("which", working.last() ? "last" : "first");
            writeMonths(working.months(), parts);
        } else if (days instanceof OnDays.DaysOfMonth some) {
            parts.put("days", word(DAYS, DayKind.DAYS_OF_MONTH));
            parts.put(
                    "monthDays",
                    some.days().stream()
                            .map(day -> day == OnDays.LAST_DAY ? "last" : String.valueOf(day))
                            .collect(Collectors.joining(", ")));
            writeMonths(some.months(), parts);
        } else if (days instanceof OnDays.EveryFewWeeks weeks) {
            parts.put("days", word(DAYS, DayKind.FEW_WEEKS));
            parts.put("weeks", String.valueOf(weeks.weeks()));
            parts.put("weekdays", names(weeks.days()));
            parts.put("first", weeks.first().toString());
        }
    }

    private static void writeMonths(Set<Month> months, Map<String, Object> parts) {
        if (months.size() < 12) {
            parts.put("months", names(months));
        }
    }

    private static List<String> names(Collection<? extends Enum<?>> all) {
        return all.stream().map(each -> each.name().substring(0, 3)).toList();
    }
}
