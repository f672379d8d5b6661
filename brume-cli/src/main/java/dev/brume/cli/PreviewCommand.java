package dev.brume.cli;

import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Days;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Zones;
import java.io.PrintWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Shows when a cron expression would fire. */
@Command(
        name = "preview",
        mixinStandardHelpOptions = true,
        description = "Shows when a cron expression fires, in its zone, in yours and in UTC.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume preview \"15 4 * * *\" --zone Atlantic/Azores",
            "  brume preview \"30 1 * * *\" --zone Europe/Lisbon --from 2026-03-28 --count 3",
            "  brume preview \"0 9 13 * FRI\" --zone America/Halifax --days both",
            "  brume preview \"*/20 * * * * *\" --until 2027-01-01T00:00:00Z --format json"
        })
final class PreviewCommand implements Callable<Integer> {
    private static final int MOST = 100_000;

    @Parameters(paramLabel = "EXPRESSION", description = "Five fields, or six with the second first; in quotes.")
    private String expression;

    @Option(
            names = "--zone",
            paramLabel = "ZONE",
            description = "The zone the expression is evaluated in; this machine's unless given.")
    private String zone;

    @Option(
            names = "--from",
            paramLabel = "TIME",
            defaultValue = "now",
            description = "Where to begin, inclusive: an instant, or a local time of --zone; default: now.")
    private String from;

    @Option(names = "--until", paramLabel = "TIME", description = "Where to end, exclusive.")
    private String until;

    @Option(
            names = "--count",
            paramLabel = "N",
            description = "How many at most, up to 100000; default: 10, or all of a period.")
    private Integer count;

    @Option(names = "--gap", paramLabel = "after|skip", description = "What becomes of local times that are skipped.")
    private Gap gap;

    @Option(
            names = "--fold",
            paramLabel = "first|last|both",
            description = "What becomes of local times that come twice.")
    private Fold fold;

    @Option(
            names = "--days",
            paramLabel = "either|both",
            description = "How two restricted day fields combine; default: either.")
    private Days days;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        CronSchedule cron = schedule();
        List<Occurrence> occurrences = occurrences(cron);
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(
                    JsonOut.pretty(occurrences.stream().map(JsonOut::occurrence).toList()));
        } else {
            print(cron, occurrences, out);
        }
        return ExitCode.OK;
    }

    private CronSchedule schedule() {
        CronSchedule cron = CronSchedule.parse(expression, zone == null ? ZoneId.systemDefault() : Zones.parse(zone));
        cron = gap == null ? cron : cron.withGap(gap);
        cron = fold == null ? cron : cron.withFold(fold);
        return days == null ? cron : cron.withDays(days);
    }

    private List<Occurrence> occurrences(CronSchedule cron) {
        int most = count == null ? (until == null ? 10 : MOST) : count;
        if (most < 1 || most > MOST) {
            throw new UsageException("--count " + most + " is outside 1 to " + MOST);
        }
        Instant now = Instant.now();
        Instant begin = Times.parse("--from", from, cron.zone(), now);
        Instant end = until == null ? Instant.MAX : Times.parse("--until", until, cron.zone(), now);
        if (!begin.isBefore(end)) {
            throw new UsageException("--until " + until + " is not after --from " + from);
        }
        try (Stream<Occurrence> stream = cron.between(begin, end)) {
            return stream.limit(most).toList();
        }
    }

    private void print(CronSchedule cron, List<Occurrence> occurrences, PrintWriter out) {
        Palette palette = look.palette();
        ZoneId viewer = look.viewerZone();
        out.println(palette.bold(cron.words()));
        out.println(palette.faint("zone " + Times.name(cron.zone()) + (zone == null ? " (this machine's)" : "")
                + ", gap " + LookOptions.lower(cron.gap()) + ", fold " + LookOptions.lower(cron.fold())));
        out.println();
        if (occurrences.isEmpty()) {
            out.println("Nothing in that period.");
            return;
        }
        boolean viewed = !viewer.equals(cron.zone()) && !Times.isUtc(viewer);
        boolean inUtc = Times.isUtc(cron.zone());
        Table table = new Table(palette).column(Times.name(cron.zone()), 30);
        if (viewed) {
            table.column(viewer.getId() + " (you)", 30);
        }
        if (!inUtc) {
            table.column("UTC", 30);
        }
        table.column("NOTE", 40);
        for (Occurrence occurrence : occurrences) {
            String local = Times.local(occurrence.instant(), cron.zone());
            String utc = Times.cut(occurrence.instant()).toString();
            String note =
                    occurrence.note().map(kind -> describe(kind, occurrence)).orElse("");
            List<String> cells = new ArrayList<>(List.of(local));
            if (viewed) {
                cells.add(Times.local(occurrence.instant(), viewer));
            }
            if (!inUtc) {
                cells.add(utc);
            }
            cells.add(note);
            table.row(cells.toArray());
        }
        table.lines().forEach(out::println);
    }

    private static String describe(Note note, Occurrence occurrence) {
        return note == Note.AFTER_GAP
                ? note + ": " + occurrence.nominal().toLocalTime() + " is skipped that day"
                : note + ": " + occurrence.nominal().toLocalTime() + " comes twice that day";
    }
}
