package dev.brume.cli;

import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Subject;
import dev.brume.schedule.CronFieldReading;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import dev.brume.schedule.WallClockSchedule;
import java.io.PrintWriter;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.time.format.TextStyle;
import java.time.temporal.ChronoUnit;
import java.time.zone.ZoneOffsetTransition;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Spec;

/** Says in words what a schedule does, and how each of its fields was understood. */
@Command(
        name = "explain",
        mixinStandardHelpOptions = true,
        description = "Says in words what an expression or a job's schedules do, and how each field was understood.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume explain \"15 4 L * MON-FRI\" --zone Atlantic/Azores",
            "  brume explain --file harbour.yaml --job harbour-dues",
            "  brume explain --job pilot-rosters --format json"
        })
final class ExplainCommand implements Callable<Integer> {
    private static final int LONGEST_MEANING = 44;
    private static final int NEXT = 3;

    /** How wide the names of facts are, as the table of fields above them has it. */
    private static final int FACT = 14;

    @Mixin
    private SubjectOptions what;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        Instant now = Times.now();
        PrintWriter out = spec.commandLine().getOut();
        List<Subject> subjects = what.subjects(now);
        if (look.json()) {
            out.println(JsonText.pretty(subjects.stream()
                    .map(subject -> InsightViews.explained(subject, now, NEXT))
                    .toList()));
            return ExitCode.OK;
        }
        for (Subject subject : subjects) {
            explain(subject, now, out);
        }
        return ExitCode.OK;
    }

    private void explain(Subject subject, Instant now, PrintWriter out) {
        Palette palette = look.palette();
        String name = subject.name().isEmpty() ? "" : subject.name() + ": ";
        Wrap.lines(name + subject.words(), look.width(), 2).forEach(line -> out.println(palette.bold(line)));
        for (Schedule schedule : subject.schedules()) {
            out.println();
            explain(schedule, now, out);
        }
        out.println();
        try (Stream<Occurrence> next = subject.between(now, Instant.MAX)) {
            List<OccurrenceTable.Line> lines = next.limit(NEXT)
                    .map(occurrence -> new OccurrenceTable.Line(subject, occurrence))
                    .toList();
            if (lines.isEmpty()) {
                out.println("Nothing is due any more.");
            } else {
                new OccurrenceTable(look).lines(lines, /* named= */ false).forEach(out::println);
            }
        }
    }

    private void explain(Schedule schedule, Instant now, PrintWriter out) {
        Schedule rule = schedule.rule();
        if (rule instanceof CronSchedule cron) {
            Table table = new Table(look).column("FIELD").column("TEXT").fold().column("MEANS");
            for (CronFieldReading field : cron.fields()) {
                String meaning = meaning(field);
                boolean isShort = meaning.length() <= LONGEST_MEANING;
                table.row(field.name(), field.text(), isShort ? meaning : "");
                if (!isShort) {
                    table.belowInFull(meaning);
                }
            }
            table.lines().forEach(out::println);
            if (cron.eitherDayDecides()) {
                fact(
                        out,
                        "days",
                        "both day fields are restricted: a day that matches either is enough (POSIX);"
                                + " --days both asks for both");
            }
        } else {
            fact(out, "rule", rule.toString());
        }
        if (rule instanceof WallClockSchedule local) {
            fact(
                    out,
                    "gap",
                    policy(
                            LookOptions.lower(local.clock().gap()),
                            rule,
                            local.statedGap().isPresent()));
            fact(
                    out,
                    "fold",
                    policy(
                            LookOptions.lower(local.clock().fold()),
                            rule,
                            local.statedFold().isPresent()));
        }
        if (schedule instanceof TermedSchedule termed) {
            terms(termed.terms(), out);
        }
        fact(out, "zone", zone(schedule.zone(), now));
        if (schedule.smallestInterval().compareTo(ChronoUnit.FOREVER.getDuration()) < 0) {
            fact(out, "interval", "at least " + Durations.format(schedule.smallestInterval()));
        }
    }

    private void fact(PrintWriter out, String name, String text) {
        String line = String.format(Locale.ROOT, "%-" + FACT + "s", name) + text;
        Wrap.lines(line, look.width(), FACT).forEach(out::println);
    }

    private static String meaning(CronFieldReading field) {
        if (field.every()) {
            return "every value" + (field.restricted() && field.name().startsWith("day-") ? ", but written out" : "");
        }
        return field.words().isEmpty()
                ? field.values().stream().map(value -> value(field, value)).collect(Collectors.joining(", "))
                : field.words();
    }

    private static String value(CronFieldReading field, int value) {
        return switch (field.name()) {
            case "month" -> Month.of(value).getDisplayName(TextStyle.FULL, Locale.ENGLISH);
            case "day-of-week" -> DayOfWeek.of(value == 0 ? 7 : value).getDisplayName(TextStyle.FULL, Locale.ENGLISH);
            default -> Integer.toString(value);
        };
    }

    private static String policy(String word, Schedule rule, boolean stated) {
        String what = switch (word) {
            case "after" -> "a local time that clocks skip is owed once, right after";
            case "skip" -> "a local time that clocks skip is not owed";
            case "first" -> "a local time that comes twice is owed the first time";
            case "last" -> "a local time that comes twice is owed the second time";
            default -> "a local time that comes twice is owed both times";
        };
        String why = stated
                ? "stated"
                : rule instanceof CronSchedule && (word.equals("skip") || word.equals("both"))
                        ? "by default, since its hour field goes on around the clock"
                        : "by default, since it names times of day";
        return word + ": " + what + " (" + why + ")";
    }

    private void terms(Terms terms, PrintWriter out) {
        terms.onlyOn().forEach(calendar -> fact(out, "onlyOn", describe(calendar)));
        terms.notOn().forEach(calendar -> fact(out, "notOn", describe(calendar)));
        if (terms.ifDayOff() != IfDayOff.SKIP) {
            fact(
                    out,
                    "ifDayOff",
                    LookOptions.lower(terms.ifDayOff()) + ": moved to the "
                            + (terms.ifDayOff() == IfDayOff.NEXT ? "next working day" : "working day before")
                            + ", same time of day");
        }
        terms.window().ifPresent(window -> fact(out, "window", window + " by the wall clock, its end excluded"));
        terms.from().ifPresent(from -> fact(out, "from", from + " (" + from.instant() + "), included"));
        terms.until().ifPresent(until -> fact(out, "until", until + " (" + until.instant() + "), excluded"));
        terms.atMost().ifPresent(most -> fact(out, "atMost", most + " in all, counted from the first definition"));
    }

    private static String describe(DayCalendar calendar) {
        if (calendar.isMissing()) {
            return calendar.name() + " (not defined)";
        }
        String until = calendar.lastDate().map(last -> " to " + last).orElse("");
        return calendar.name() + " (" + CalendarsCommand.describe(calendar) + until + ")";
    }

    private static String zone(ZoneId zone, Instant now) {
        if (Times.isUtc(zone)) {
            return "UTC, whose clocks never change";
        }
        ZoneOffsetTransition next = zone.getRules().nextTransition(now);
        String offset =
                zone + ", now UTC" + zone.getRules().getOffset(now).getId().replace("Z", "");
        boolean soon = next != null && Duration.between(now, next.getInstant()).compareTo(Duration.ofDays(3660)) < 0;
        return soon
                ? offset + "; clocks go " + (next.isGap() ? "forward" : "back") + " by "
                        + Durations.format(next.getDuration().abs()) + " at " + next.getInstant()
                : offset + "; its clocks do not change";
    }
}
