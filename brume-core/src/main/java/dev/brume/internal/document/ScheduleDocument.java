package dev.brume.internal.document;

import static dev.brume.internal.document.JobDocument.nameOf;
import static dev.brume.internal.document.JobDocument.ordered;

import dev.brume.CalendarName;
import dev.brume.JobName;
import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Days;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Moment;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import dev.brume.schedule.WallClockSchedule;
import dev.brume.schedule.Zones;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;

/** Reads and writes the schedules of a job: one mapping, or a list of them, each of one kind. */
final class ScheduleDocument {
    private static final List<String> KINDS = List.of("cron", "every", "afterEnd", "once", "rule");
    private static final List<String> TERMS =
            List.of("notOn", "onlyOn", "ifDayOff", "window", "from", "until", "atMost");
    private static final List<String> KEYS = List.of(
            "cron",
            "every",
            "afterEnd",
            "once",
            "rule",
            "zone",
            "gap",
            "fold",
            "days",
            "anchor",
            "notOn",
            "onlyOn",
            "ifDayOff",
            "window",
            "from",
            "until",
            "atMost");
    private static final Map<String, Gap> GAPS = ordered("after", Gap.AFTER, "skip", Gap.SKIP);
    private static final Map<String, Fold> FOLDS = ordered("first", Fold.FIRST, "last", Fold.LAST, "both", Fold.BOTH);
    private static final Map<String, Days> DAYS = ordered("either", Days.EITHER, "both", Days.BOTH);
    private static final Map<String, IfDayOff> DAY_OFF =
            ordered("skip", IfDayOff.SKIP, "next", IfDayOff.NEXT, "previous", IfDayOff.PREVIOUS);
    private static final ZoneId UTC = ZoneId.of("UTC");

    private final Fields fields;
    private final String kind;
    private final Optional<ZoneId> zone;

    private ScheduleDocument(Fields fields, String kind, Optional<ZoneId> zone) {
        this.fields = fields;
        this.kind = kind;
        this.zone = zone;
    }

    static List<Schedule> readAll(Fields job, Optional<ZoneId> zone, List<DocumentProblem> problems) {
        List<Schedule> schedules = new ArrayList<>();
        Object when = job.raw("when").orElse(List.of());
        if (when instanceof List<?> list) {
            for (int i = 0; i < list.size(); i++) {
                read(Fields.join(job.path("when"), i), list.get(i), zone, problems)
                        .ifPresent(schedules::add);
            }
        } else {
            read(job.path("when"), when, zone, problems).ifPresent(schedules::add);
        }
        return schedules;
    }

    private static Optional<Schedule> read(
            String path, Object document, Optional<ZoneId> inherited, List<DocumentProblem> problems) {
        Optional<Fields> opened = Fields.open(path, document, KEYS, problems);
        if (opened.isEmpty()) {
            return Optional.empty();
        }
        Fields fields = opened.get();
        List<String> kinds = KINDS.stream().filter(fields::has).toList();
        if (kinds.size() != 1) {
            fields.noteHere("expected exactly one of " + String.join(", ", KINDS)
                    + (kinds.isEmpty() ? "" : ", found " + String.join(" and ", kinds)));
            return Optional.empty();
        }
        Optional<ZoneId> own = fields.text("zone").flatMap(name -> fields.read("zone", () -> Zones.parse(name)));
        if (fields.has("zone") && own.isEmpty()) {
            // The zone is wrong already; the rest is looked through all the same, so that one go finds all.
            new ScheduleDocument(fields, kinds.get(0), Optional.of(UTC)).read();
            return Optional.empty();
        }
        return new ScheduleDocument(fields, kinds.get(0), own.isPresent() ? own : inherited).read();
    }

    private Optional<Schedule> read() {
        refuseForeignKeys();
        Optional<Schedule> rule = switch (kind) {
            case "cron" -> readCron();
            case "every" -> readEvery();
            case "afterEnd" ->
                fields.duration("afterEnd")
                        .flatMap(delay -> fields.read("afterEnd", () -> AfterEndSchedule.of(delay, zone.orElse(UTC))));
            case "rule" -> readRule();
            default -> readOnce();
        };
        Optional<Terms> terms = readTerms();
        if (terms.filter(Terms.NONE::equals).isPresent()) {
            return rule;
        }
        if (zone.isEmpty() && (fields.has("window") || fields.has("notOn") || fields.has("onlyOn"))) {
            needsZone();
        }
        return rule.flatMap(schedule -> terms.flatMap(carried -> fields.readHere(() -> schedule.with(carried))));
    }

    private void refuseForeignKeys() {
        for (String key : List.of("gap", "fold", "days")) {
            boolean fits = kind.equals("cron") || kind.equals("rule") && !key.equals("days");
            if (fields.has(key) && !fits) {
                fields.note(key, "belongs to cron" + (key.equals("days") ? "" : " or rule") + ", not to " + kind);
            }
        }
        if (fields.has("anchor") && !kind.equals("every")) {
            fields.note("anchor", "belongs to every, not to " + kind);
        }
    }

    private void needsZone() {
        fields.noteHere("names no zone (add zone: here, or once at the top of the file)");
    }

    private Optional<Schedule> readCron() {
        if (zone.isEmpty()) {
            needsZone();
        }
        Optional<CronSchedule> cron = fields.scalar("cron")
                .flatMap(text -> fields.read("cron", () -> CronSchedule.parse(text, zone.orElse(UTC))));
        Optional<Gap> gap = fields.word("gap", GAPS);
        Optional<Fold> fold = fields.word("fold", FOLDS);
        Optional<Days> days = fields.word("days", DAYS);
        return cron.map(schedule -> gap.map(schedule::withGap).orElse(schedule))
                .map(schedule -> fold.map(schedule::withFold).orElse(schedule))
                .flatMap(schedule -> days.isEmpty()
                        ? Optional.of(schedule)
                        : fields.read("cron", () -> schedule.withDays(days.get())))
                .filter(schedule -> zone.isPresent())
                .map(Schedule.class::cast);
    }

    private Optional<Schedule> readRule() {
        Optional<String> text = fields.text("rule");
        boolean floating = text.isPresent() && !text.get().matches("(?is).*DTSTART[^\\r\\n]*(TZID=|Z\\s*(\\R|$)).*");
        if (zone.isEmpty() && floating) {
            needsZone();
        }
        Optional<Gap> gap = fields.word("gap", GAPS);
        Optional<Fold> fold = fields.word("fold", FOLDS);
        return text.flatMap(lines -> fields.read("rule", () -> RuleSchedule.parse(lines, zone.orElse(UTC))))
                .map(schedule -> gap.map(schedule::withGap).orElse(schedule))
                .map(schedule -> fold.map(schedule::withFold).orElse(schedule))
                .map(Schedule.class::cast);
    }

    private Optional<Schedule> readEvery() {
        ZoneId shownIn = zone.orElse(UTC);
        Optional<EverySchedule> every = fields.duration("every")
                .flatMap(interval -> fields.read("every", () -> EverySchedule.of(interval)))
                .map(schedule -> schedule.withZone(shownIn));
        Optional<Instant> anchor = readMoment("anchor").map(Moment::instant);
        return every.map(schedule -> anchor.map(schedule::withAnchor).orElse(schedule))
                .map(Schedule.class::cast);
    }

    private Optional<Schedule> readOnce() {
        Optional<String> text = fields.scalar("once");
        boolean local = text.isPresent()
                && !Moment.namesAnInstant(text.get())
                && !text.get().strip().matches("(?i)in\\s.*");
        if (zone.isEmpty() && local) {
            needsZone();
        }
        return text.flatMap(value -> fields.read("once", () -> OnceSchedule.parse(value, zone.orElse(UTC))));
    }

    private Optional<Moment> readMoment(String key) {
        return fields.scalar(key).flatMap(text -> {
            if (zone.isEmpty() && !Moment.namesAnInstant(text)) {
                fields.note(
                        key, "is a local time, and there is no zone (add zone:, or write it as 2027-05-14T06:00:00Z)");
                return Optional.empty();
            }
            return fields.read(key, () -> Moment.parse(text, zone.orElse(UTC)));
        });
    }

    // Terms.

    private Optional<Terms> readTerms() {
        if (TERMS.stream().noneMatch(fields::has)) {
            return Optional.of(Terms.NONE);
        }
        List<DayCalendar> notOn = readCalendars("notOn");
        List<DayCalendar> onlyOn = readCalendars("onlyOn");
        Optional<IfDayOff> ifDayOff = fields.word("ifDayOff", DAY_OFF);
        Optional<DailyWindow> window =
                fields.text("window").flatMap(text -> fields.read("window", () -> DailyWindow.parse(text)));
        Optional<Moment> from = readMoment("from");
        Optional<Moment> until = readMoment("until");
        OptionalLong atMost =
                fields.integer("atMost").stream().mapToLong(Integer::longValue).findFirst();
        boolean allRead = TERMS.stream().filter(fields::has).allMatch(key -> switch (key) {
            case "ifDayOff" -> ifDayOff.isPresent();
            case "window" -> window.isPresent();
            case "from" -> from.isPresent();
            case "until" -> until.isPresent();
            case "atMost" -> atMost.isPresent();
            default -> true;
        });
        return allRead
                ? fields.readHere(
                        () -> new Terms(notOn, onlyOn, ifDayOff.orElse(IfDayOff.SKIP), window, from, until, atMost))
                : Optional.empty();
    }

    /** One name, or a list of them; what they stand for is looked up when the job is defined. */
    private List<DayCalendar> readCalendars(String key) {
        Optional<List<String>> names =
                fields.raw(key).filter(String.class::isInstance).isPresent()
                        ? fields.text(key).map(List::of)
                        : fields.texts(key);
        List<DayCalendar> calendars = new ArrayList<>();
        for (String name : names.orElse(List.of())) {
            if (CalendarName.isReference(name)) {
                calendars.add(DayCalendar.missing(name));
            } else {
                fields.note(
                        key,
                        "'" + name
                                + "' is not the name of a calendar (expected NAME, or /NAME for the whole cluster's; a name is "
                                + JobName.RULE + ")");
            }
        }
        return calendars;
    }

    // Writing.

    static Map<String, Object> write(Schedule schedule) {
        Map<String, Object> document = new LinkedHashMap<>();
        writeRule(schedule.rule(), document);
        if (schedule instanceof TermedSchedule termed) {
            writeTerms(termed.terms(), document);
        }
        return document;
    }

    private static void writeRule(Schedule rule, Map<String, Object> document) {
        if (rule instanceof CronSchedule cron) {
            document.put("cron", cron.text());
            cron.statedDays().ifPresent(days -> document.put("days", nameOf(DAYS, days)));
        } else if (rule instanceof EverySchedule every) {
            document.put("every", every.interval().toString());
            if (!every.anchor().equals(Instant.EPOCH)) {
                document.put("anchor", every.anchor().toString());
            }
        } else if (rule instanceof AfterEndSchedule after) {
            document.put("afterEnd", after.delay().toString());
        } else if (rule instanceof RuleSchedule lines) {
            document.put("rule", lines.text());
        } else if (rule instanceof OnceSchedule once) {
            document.put("once", once.toString());
        }
        if (rule instanceof WallClockSchedule local) {
            local.statedGap().ifPresent(gap -> document.put("gap", nameOf(GAPS, gap)));
            local.statedFold().ifPresent(fold -> document.put("fold", nameOf(FOLDS, fold)));
        }
        ZoneId given = rule instanceof RuleSchedule lines ? lines.givenZone() : rule.zone();
        document.put("zone", given.getId());
    }

    private static void writeTerms(Terms terms, Map<String, Object> document) {
        if (!terms.notOn().isEmpty()) {
            document.put("notOn", names(terms.notOn()));
        }
        if (!terms.onlyOn().isEmpty()) {
            document.put("onlyOn", names(terms.onlyOn()));
        }
        if (terms.ifDayOff() != IfDayOff.SKIP) {
            document.put("ifDayOff", nameOf(DAY_OFF, terms.ifDayOff()));
        }
        terms.window().ifPresent(window -> document.put("window", window.toString()));
        terms.from().ifPresent(from -> document.put("from", from.text()));
        terms.until().ifPresent(until -> document.put("until", until.text()));
        terms.atMost().ifPresent(most -> document.put("atMost", (int) most));
    }

    private static List<String> names(List<DayCalendar> calendars) {
        return calendars.stream().map(DayCalendar::name).toList();
    }
}
