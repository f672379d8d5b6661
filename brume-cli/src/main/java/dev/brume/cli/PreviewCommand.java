package dev.brume.cli;

import dev.brume.cli.OccurrenceTable.Line;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Subject;
import dev.brume.ical.CalendarRule;
import dev.brume.ical.CalendarWriter;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Union;
import dev.brume.schedule.WallClockSchedule;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Shows when an expression, a job, or all jobs of a file are due. */
@Command(
        name = "preview",
        mixinStandardHelpOptions = true,
        description =
                "Shows when an expression, a job, or all jobs of a file are due: in their zone, in yours and in UTC.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume preview \"15 4 * * *\" --zone Atlantic/Azores",
            "  brume preview \"30 1 * * *\" --zone Europe/Lisbon --around-transitions",
            "  brume preview \"0 9 13 * FRI\" --zone America/Halifax --days both",
            "  brume preview \"DTSTART:20270105T090000 RRULE:FREQ=MONTHLY;BYDAY=1SU,-1SU\" --zone America/Halifax",
            "  brume preview --file harbour.yaml --count 20",
            "  brume preview --file harbour.yaml --job pilot-rosters --month 2027-03",
            "  brume preview --job pilot-rosters --until 2027-07-01 --ics rosters.ics",
            "  brume preview \"*/20 * * * * *\" --until 2027-01-01T00:00:00Z --format json"
        })
final class PreviewCommand implements Callable<Integer> {
    private static final int MOST = 100_000;
    private static final int COMPARED = 500;

    @Mixin
    private SubjectOptions what;

    @Option(
            names = "--from",
            paramLabel = "TIME",
            defaultValue = "now",
            description =
                    "Where to begin, inclusive: an instant, or a local time of the schedule's zone; default: now.")
    private String from;

    @Option(names = "--until", paramLabel = "TIME", description = "Where to end, exclusive.")
    private @Nullable String until;

    @Option(
            names = "--count",
            paramLabel = "N",
            description =
                    "How many at most, up to 100000; default: 10, all of a period, or the next of each job of a file.")
    private @Nullable Integer count;

    @Option(
            names = "--around-transitions",
            description = "Shows only the days of the coming two years on which clocks change.")
    private boolean aroundTransitions;

    @Option(
            names = "--month",
            paramLabel = "YYYY-MM",
            arity = "0..1",
            fallbackValue = "",
            description = "Shows a month as a calendar; the one of --from unless given.")
    private @Nullable String month;

    @Option(names = "--ics", paramLabel = "FILE", description = "Writes an iCalendar file; - for standard output.")
    private @Nullable String ics;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws IOException {
        Instant now = Times.now();
        List<Subject> subjects = what.subjects(now);
        if (aroundTransitions && month != null) {
            throw new UsageException("--around-transitions and --month do not go together");
        }
        if (ics != null && (aroundTransitions || month != null)) {
            throw new UsageException("--ics goes with neither --around-transitions nor --month");
        }
        ZoneId zone = subjects.isEmpty() ? ZoneOffset.UTC : subjects.get(0).zone();
        Instant begin = Times.parse("--from", from, zone, now);
        PrintWriter out = spec.commandLine().getOut();
        if (aroundTransitions) {
            transitions(subjects, begin, out);
        } else if (month != null) {
            months(month, subjects, begin, out);
        } else {
            occurrences(subjects, begin, now, out);
        }
        return ExitCode.OK;
    }

    // The next occurrences.

    private void occurrences(List<Subject> subjects, Instant begin, Instant now, PrintWriter out) throws IOException {
        List<Line> lines = lines(subjects, begin, now);
        if (ics != null) {
            write(ics, entries(subjects, lines, begin, now), now, out);
        } else if (look.json()) {
            out.println(JsonText.pretty(lines.stream()
                    .map(line -> JsonOut.occurrence(line.subject().name(), line.occurrence()))
                    .toList()));
        } else {
            print(subjects, lines, out);
        }
    }

    private List<Line> lines(List<Subject> subjects, Instant begin, Instant now) {
        int most = count == null ? (until == null ? 10 : MOST) : count;
        if (most < 1 || most > MOST) {
            throw new UsageException("--count " + most + " is outside 1 to " + MOST);
        }
        List<Line> lines = new ArrayList<>();
        for (Subject subject : subjects) {
            Instant end = until == null ? Instant.MAX : Times.parse("--until", until, subject.zone(), now);
            if (!begin.isBefore(end)) {
                throw new UsageException("--until " + until + " is not after --from " + from);
            }
            boolean oneEach = what.wholeFile() && count == null && until == null;
            try (Stream<Occurrence> stream = subject.between(begin, end)) {
                stream.limit(oneEach ? 1 : most).forEach(occurrence -> lines.add(new Line(subject, occurrence)));
            }
        }
        lines.sort(Comparator.comparing(line -> line.occurrence().instant()));
        return what.wholeFile() && count == null ? lines : lines.subList(0, Math.min(most, lines.size()));
    }

    private void print(List<Subject> subjects, List<Line> lines, PrintWriter out) {
        if (!what.wholeFile()) {
            subjects.forEach(subject -> head(subject, out));
            out.println();
        }
        if (lines.isEmpty()) {
            out.println("Nothing in that period.");
            return;
        }
        new OccurrenceTable(look).lines(lines, what.wholeFile()).forEach(out::println);
    }

    private void head(Subject subject, PrintWriter out) {
        Palette palette = look.palette();
        String words = (subject.name().isEmpty() ? "" : subject.name() + ": ") + subject.words();
        Wrap.lines(words, look.width(), 2).forEach(line -> out.println(palette.bold(line)));
        String policies = subject.schedules().stream()
                .map(Schedule::rule)
                .filter(WallClockSchedule.class::isInstance)
                .map(schedule -> ((WallClockSchedule) schedule).clock())
                .map(clock -> ", gap " + LookOptions.lower(clock.gap()) + ", fold " + LookOptions.lower(clock.fold()))
                .findFirst()
                .orElse("");
        out.println(palette.faint(
                "zone " + Times.name(subject.zone()) + (what.inMachinesZone() ? " (this machine's)" : "") + policies));
    }

    private static void write(String ics, List<CalendarWriter.Entry> entries, Instant now, PrintWriter out)
            throws IOException {
        if (entries.isEmpty()) {
            throw new UsageException("nothing is due in that period, so there is nothing to write to " + ics);
        }
        if (ics.equals("-")) {
            CalendarWriter.write(out, entries, now);
            out.flush();
            return;
        }
        Path file = Path.of(ics);
        try (Writer writer = Files.newBufferedWriter(file, StandardCharsets.UTF_8)) {
            CalendarWriter.write(writer, entries, now);
        } catch (IOException e) {
            throw UsageException.unwritable("--ics", file, e);
        }
        long recurring =
                entries.stream().filter(entry -> entry.rule().isPresent()).count();
        out.println(file + ": " + DiffPrinter.count(entries.size(), "event")
                + (recurring == 0 ? "" : ", " + recurring + " of them recurring"));
    }

    /** A job whose schedules can be said as rules is an event each of these; what is due of others, one each. */
    private List<CalendarWriter.Entry> entries(List<Subject> subjects, List<Line> lines, Instant begin, Instant now) {
        List<CalendarWriter.Entry> entries = new ArrayList<>();
        Optional<Duration> lasts = what.measured(now);
        for (Subject subject : subjects) {
            List<CalendarRule> rules = rules(subject, begin, now);
            for (CalendarRule rule : rules) {
                String uid = Integer.toHexString((name(subject) + rule.start().getZone() + rule.text()).hashCode())
                        + "@brume";
                entries.add(new CalendarWriter.Entry(
                        uid, rule.start().toInstant(), Optional.of(rule), lasts, name(subject), subject.words()));
            }
            if (rules.isEmpty()) {
                lines.stream()
                        .filter(line -> line.subject().equals(subject))
                        .forEach(line -> entries.add(entry(line, lasts)));
            }
        }
        return entries;
    }

    /** One rule for each schedule; none if there is one that no rule says. */
    private List<CalendarRule> rules(Subject subject, Instant begin, Instant now) {
        Optional<Instant> end =
                Optional.ofNullable(until).map(text -> Times.parse("--until", text, subject.zone(), now));
        List<CalendarRule> rules = new ArrayList<>();
        for (Schedule schedule : subject.schedules()) {
            CalendarRule.of(schedule, begin)
                    .filter(rule -> end.filter(at -> !rule.start().toInstant().isBefore(at))
                            .isEmpty())
                    .map(rule -> end.map(rule::until).orElse(rule))
                    .map(rule -> count == null ? rule : rule.count(count))
                    .ifPresent(rules::add);
        }
        boolean countsAlone = count == null || until == null && rules.size() == 1;
        return rules.size() == subject.schedules().size() && isPlain(subject, begin) && countsAlone ? rules : List.of();
    }

    /** Whether a job owes what its schedules name, and nothing moves or hides it. */
    private static boolean isPlain(Subject subject, Instant begin) {
        return instants(subject.timeline(), begin).equals(instants(Union.of(subject.schedules()), begin));
    }

    private static List<Instant> instants(Timeline timeline, Instant begin) {
        return timeline.between(begin, Instant.MAX)
                .limit(COMPARED)
                .map(Occurrence::instant)
                .toList();
    }

    private static String name(Subject subject) {
        return subject.name().isEmpty() ? subject.schedules().get(0).toString() : subject.name();
    }

    private static CalendarWriter.Entry entry(Line line, Optional<Duration> lasts) {
        String name = name(line.subject());
        String uid = line.occurrence().instant().toEpochMilli() + "-" + Integer.toHexString(name.hashCode()) + "@brume";
        String note = NoteText.of(line.occurrence());
        return new CalendarWriter.Entry(
                uid,
                line.occurrence().instant(),
                Optional.empty(),
                lasts,
                name,
                line.subject().words() + (note.isEmpty() ? "" : "\n" + note));
    }

    // Days on which clocks change.

    private void transitions(List<Subject> subjects, Instant begin, PrintWriter out) {
        if (look.json()) {
            out.println(JsonText.pretty(subjects.stream()
                    .flatMap(subject -> TransitionDays.of(subject, begin).stream()
                            .map(day -> JsonOut.transition(subject.name(), day)))
                    .toList()));
            return;
        }
        for (Subject subject : subjects) {
            head(subject, out);
            List<TransitionDays> days = TransitionDays.of(subject, begin);
            if (days.isEmpty()) {
                out.println("The clocks of " + Times.name(subject.zone()) + " do not change within two years.");
            }
            for (TransitionDays day : days) {
                out.println();
                out.println(look.palette().bold(day.title()));
                out.println("  " + day.summary());
                List<Line> lines = day.listed().stream()
                        .map(occurrence -> new Line(subject, occurrence))
                        .toList();
                if (!lines.isEmpty()) {
                    new OccurrenceTable(look)
                            .lines(lines, /* named= */ false)
                            .forEach(line -> out.println("  " + line));
                }
            }
            out.println();
        }
    }

    // A month.

    private void months(String month, List<Subject> subjects, Instant begin, PrintWriter out) {
        List<Map<String, Object>> json = new ArrayList<>();
        for (Subject subject : subjects) {
            YearMonth shown = month(month, subject, begin);
            if (look.json()) {
                json.addAll(JsonOut.month(subject, shown));
                continue;
            }
            head(subject, out);
            out.println();
            new MonthView(subject, shown, look.palette()).lines().forEach(out::println);
            out.println();
        }
        if (look.json()) {
            out.println(JsonText.pretty(json));
        }
    }

    private static YearMonth month(String month, Subject subject, Instant begin) {
        try {
            return month.isEmpty() ? YearMonth.from(begin.atZone(subject.zone())) : YearMonth.parse(month);
        } catch (DateTimeException e) {
            throw new UsageException("--month '" + month + "' is not a month (expected 2027-03)");
        }
    }
}
