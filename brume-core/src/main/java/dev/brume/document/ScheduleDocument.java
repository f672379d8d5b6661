package dev.brume.document;

import static dev.brume.document.JobDocument.ordered;

import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Days;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Zones;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads and writes the schedules of a job: one mapping, or a list of them, each of one kind. */
final class ScheduleDocument {
    private static final List<String> KEYS = List.of("cron", "every", "once", "zone", "gap", "fold", "days", "anchor");
    private static final List<String> KINDS = List.of("cron", "every", "once");
    private static final Map<String, Gap> GAPS = ordered("after", Gap.AFTER, "skip", Gap.SKIP);
    private static final Map<String, Fold> FOLDS = ordered("first", Fold.FIRST, "last", Fold.LAST, "both", Fold.BOTH);
    private static final Map<String, Days> DAYS = ordered("either", Days.EITHER, "both", Days.BOTH);

    private ScheduleDocument() {}

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
        refuseForeignKeys(fields, kinds.get(0));
        Optional<ZoneId> own = fields.text("zone").flatMap(name -> fields.read("zone", () -> Zones.parse(name)));
        if (fields.has("zone") && own.isEmpty()) {
            checkWithoutZone(fields, kinds.get(0));
            return Optional.empty();
        }
        Optional<ZoneId> zone = own.isPresent() ? own : inherited;
        return switch (kinds.get(0)) {
            case "cron" -> readCron(fields, zone);
            case "every" -> readEvery(fields, zone.orElse(ZoneId.of("UTC")));
            default -> readOnce(fields, zone);
        };
    }

    private static void refuseForeignKeys(Fields fields, String kind) {
        List<String> cronOnly = List.of("gap", "fold", "days");
        cronOnly.stream()
                .filter(key -> fields.has(key) && !kind.equals("cron"))
                .forEach(key -> fields.note(key, "belongs to cron, not to " + kind));
        if (fields.has("anchor") && !kind.equals("every")) {
            fields.note("anchor", "belongs to every, not to " + kind);
        }
    }

    /** The zone is wrong already; the rest is looked through all the same, so that one go finds all. */
    private static void checkWithoutZone(Fields fields, String kind) {
        ZoneId anywhere = ZoneId.of("UTC");
        switch (kind) {
            case "cron" -> readCron(fields, Optional.of(anywhere));
            case "every" -> readEvery(fields, anywhere);
            default -> readOnce(fields, Optional.of(anywhere));
        }
    }

    private static Optional<Schedule> readCron(Fields fields, Optional<ZoneId> zone) {
        if (zone.isEmpty()) {
            fields.noteHere("names no zone (add zone: here, or once at the top of the file)");
        }
        Optional<CronSchedule> cron = fields.scalar("cron")
                .flatMap(text -> fields.read("cron", () -> CronSchedule.parse(text, zone.orElse(ZoneId.of("UTC")))));
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

    private static Optional<Schedule> readEvery(Fields fields, ZoneId zone) {
        Optional<EverySchedule> every = fields.duration("every")
                .flatMap(interval -> fields.read("every", () -> EverySchedule.of(interval)))
                .map(schedule -> schedule.withZone(zone));
        Optional<Instant> anchor = fields.scalar("anchor")
                .flatMap(text -> fields.read("anchor", () -> OnceSchedule.parse(text, zone)))
                .map(once -> once.occurrence().instant());
        return every.map(schedule -> anchor.map(schedule::withAnchor).orElse(schedule))
                .map(Schedule.class::cast);
    }

    private static Optional<Schedule> readOnce(Fields fields, Optional<ZoneId> zone) {
        Optional<String> text = fields.scalar("once");
        boolean local = text.isPresent() && !text.get().matches(".*([Zz]|[+-]\\d{2}(:?\\d{2})?)\\s*$");
        if (zone.isEmpty() && local) {
            fields.noteHere("names no zone (add zone: here, or once at the top of the file)");
        }
        return text.flatMap(value ->
                fields.read("once", () -> OnceSchedule.parse(value, zone.orElse(ZoneId.of("UTC")))));
    }

    static Map<String, Object> write(Schedule schedule) {
        Map<String, Object> document = new LinkedHashMap<>();
        if (schedule instanceof CronSchedule cron) {
            document.put("cron", cron.text());
            document.put("zone", cron.zone().getId());
            cron.statedGap().ifPresent(gap -> document.put("gap", JobDocument.nameOf(GAPS, gap)));
            cron.statedFold().ifPresent(fold -> document.put("fold", JobDocument.nameOf(FOLDS, fold)));
            if (cron.days() != Days.EITHER) {
                document.put("days", JobDocument.nameOf(DAYS, cron.days()));
            }
        } else if (schedule instanceof EverySchedule every) {
            document.put("every", every.interval().toString());
            document.put("zone", every.zone().getId());
            if (!every.anchor().equals(Instant.EPOCH)) {
                document.put("anchor", every.anchor().toString());
            }
        } else {
            document.put("once", schedule.toString());
            document.put("zone", schedule.zone().getId());
        }
        return document;
    }
}
