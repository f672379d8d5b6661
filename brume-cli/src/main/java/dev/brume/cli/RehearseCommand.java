package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.insight.rehearsal.Crew;
import dev.brume.insight.rehearsal.Mishaps;
import dev.brume.insight.rehearsal.Present;
import dev.brume.insight.rehearsal.Rehearsal;
import dev.brume.insight.rehearsal.WorkTimes;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Lives through the time to come. */
@Command(
        name = "rehearse",
        mixinStandardHelpOptions = true,
        description =
                "Lets the engine itself live through the coming days in virtual time, with the definitions of a file and work that"
                        + " takes as long as it was measured to take: which runs will overlap, wait or be late, which minutes"
                        + " are the busiest, which lanes nobody serves, and what a clock change touches. Changes nothing.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume rehearse harbour.yaml --for 14d --instances 3",
            "  brume rehearse harbour.yaml --for 7d --takes 30s --takes lamp-inspection=50m",
            "  brume rehearse new.yaml --against harbour.yaml",
            "  brume rehearse harbour.yaml --instances 2 --lose quay-2@04:10 --outage 03:00/30m --slow 'tide-tables*3' --until tomorrow"
        })
final class RehearseCommand implements Callable<Integer> {
    /** Stands for what is in force in the database. */
    private static final String STORE = "store";

    private static final Duration LONGEST = Duration.ofDays(3660);

    @Parameters(paramLabel = "FILE", description = "YAML or JSON; 'store' for what is in force in the database.")
    private String file;

    @Option(
            names = "--for",
            paramLabel = "DURATION",
            defaultValue = "14d",
            description = "How far ahead; default: ${DEFAULT-VALUE}.")
    private Duration length;

    @Option(names = "--from", paramLabel = "TIME", defaultValue = "now", description = "From when; default: now.")
    private String from;

    @Option(
            names = "--instances",
            paramLabel = "N",
            defaultValue = "1",
            description = "How many instances there are, all alike; default: ${DEFAULT-VALUE}.")
    private int instances;

    @Option(
            names = "--workers",
            paramLabel = "N",
            defaultValue = "16",
            description = "How many workers of the lane main each has; default: ${DEFAULT-VALUE}.")
    private int workers;

    @Option(
            names = "--lane",
            paramLabel = "NAME=N",
            description = "A lane that each serves with so many workers, and no others than those given so.")
    private Map<String, Integer> lanes = new LinkedHashMap<>();

    @Option(names = "--label", paramLabel = "NAME", description = "A label that each carries.")
    private Set<String> labels = Set.of();

    @Option(
            names = "--takes",
            paramLabel = "[JOB=]DURATION",
            description =
                    "How long the work of a job takes; without a job, of those that were never measured (10s unless given).")
    private List<String> stated = List.of();

    @Option(
            names = "--measured",
            paramLabel = "DURATION",
            defaultValue = "7d",
            description = "Takes the durations of runs of so long back; default: ${DEFAULT-VALUE}.")
    private Duration measured;

    @Option(
            names = "--against",
            paramLabel = "FILE|store",
            description =
                    "Rehearses this too, and shows both side by side. Beside 'store', jobs of other sources take part as they"
                            + " are.")
    private @Nullable String against;

    @Option(names = "--with-others", description = "Jobs of the database that other sources define take part as well.")
    private boolean withOthers;

    @Option(names = "--until", paramLabel = "TIME", description = "Until when, in place of --for.")
    private @Nullable String until;

    @Option(
            names = "--lose",
            paramLabel = "NAME@TIME",
            description = "An instance of that name dies then and does not come back, such as quay-2@04:10.")
    private List<String> lost = List.of();

    @Option(
            names = "--outage",
            paramLabel = "TIME/DURATION",
            description = "The database is away from then on for so long, such as 03:00/30m.")
    private List<String> outages = List.of();

    @Option(
            names = "--slow",
            paramLabel = "JOB*FACTOR",
            description = "The work of a job takes so many times as long, such as tide-tables*3.")
    private List<String> slow = List.of();

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        Instant begin = Times.parse("--from", from, look.viewerZone(), Times.now());
        if (until != null) {
            length = Duration.between(begin, Times.parse("--until", until, look.viewerZone(), begin));
        }
        if (length.compareTo(LONGEST) > 0 || length.isNegative() || length.isZero()) {
            throw new UsageException("--for " + Durations.format(length) + " is outside 1s to 3660d");
        }
        Crew crew = crew();
        Map<String, Duration> takes = stated();
        boolean needsStore = STORE.equals(file) || STORE.equals(against) || withOthers;
        Present present = needsStore || options.isThere()
                ? options.ask(at -> Present.of(at.history(), at.took(measured)))
                : Present.NOTHING;
        DefinitionSet set = definitions(file, present);
        WorkTimes times = new WorkTimes(present.took(), takes);
        Mishaps mishaps = mishaps(begin);
        Rehearsal.UnderTrouble after = rehearse(set, crew, times, begin, length, mishaps);
        PrintWriter out = spec.commandLine().getOut();
        Optional<Rehearsal.UnderTrouble> earlier = Optional.ofNullable(against)
                .map(name -> rehearse(definitions(name, present), crew, times, begin, length, mishaps));
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.underTrouble(after, earlier)));
        } else {
            ForesightPrinter printer = new ForesightPrinter(look, out);
            printer.head(set, crew, times.words(set), after.foresight());
            earlier.ifPresentOrElse(
                    old -> printer.compare(String.valueOf(against), old.foresight(), file, after.foresight()),
                    () -> printer.print(after.foresight()));
            boolean tells = set.telling().filter(telling -> !telling.isEmpty()).isPresent();
            if (!mishaps.isNone() || tells) {
                new DamagePrinter(look, out)
                        .print(
                                mishaps,
                                earlier.map(Rehearsal.UnderTrouble::damage),
                                after.damage(),
                                String.valueOf(against),
                                file);
            }
        }
        return ExitCode.OK;
    }

    private Crew crew() {
        try {
            return new Crew(instances, lanes.isEmpty() ? Map.of(Job.MAIN_LANE, workers) : lanes, labels);
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private Map<String, Duration> stated() {
        Map<String, Duration> takes = new HashMap<>();
        for (String text : stated) {
            int sign = text.indexOf('=');
            takes.put(sign < 0 ? "" : text.substring(0, sign), Durations.parse(text.substring(sign + 1)));
        }
        return takes;
    }

    private DefinitionSet definitions(String name, Present present) {
        if (name.equals(STORE)) {
            return present.inForce(STORE);
        }
        // What is in force holds the jobs of all sources; a file compared with it leaves those of others as they are.
        boolean besides = withOthers || STORE.equals(file) || STORE.equals(against);
        return present.with(DefinitionFile.read(Path.of(name)).definitions(), besides);
    }

    private Mishaps mishaps(Instant begin) {
        try {
            List<Mishaps.Loss> losses = new ArrayList<>();
            for (String text : lost) {
                String[] parts = parts("--lose", text, '@', "quay-2@04:10");
                losses.add(new Mishaps.Loss(parts[0], time("--lose", parts[1], begin)));
            }
            List<Mishaps.Outage> away = new ArrayList<>();
            for (String text : outages) {
                String[] parts = parts("--outage", text, '/', "03:00/30m");
                away.add(new Mishaps.Outage(time("--outage", parts[0], begin), Durations.parse(parts[1])));
            }
            Map<JobName, Double> slower = new HashMap<>();
            for (String text : slow) {
                String[] parts = parts("--slow", text, '*', "tide-tables*3");
                slower.put(JobName.parse(parts[0]), Double.parseDouble(parts[1]));
            }
            return new Mishaps(losses, away, slower);
        } catch (NumberFormatException e) {
            throw new UsageException("--slow: the factor is no number (expected such as tide-tables*3)");
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private static String[] parts(String option, String text, char between, String example) {
        int at = text.lastIndexOf(between);
        if (at < 1 || at == text.length() - 1) {
            throw new UsageException(option + " '" + text + "' is not of the form " + example);
        }
        return new String[] {text.substring(0, at), text.substring(at + 1)};
    }

    /** A time of day is the first one from the beginning on. */
    private Instant time(String option, String text, Instant begin) {
        if (!text.matches("\\d{1,2}:\\d{2}(:\\d{2})?")) {
            return Times.parse(option, text, look.viewerZone(), begin);
        }
        ZonedDateTime local = begin.atZone(look.viewerZone());
        ZonedDateTime same =
                local.with(LocalTime.parse(text.length() == 4 || text.indexOf(':') == 1 ? "0" + text : text));
        return (same.isBefore(local) ? same.plusDays(1) : same).toInstant();
    }

    private static Rehearsal.UnderTrouble rehearse(
            DefinitionSet set, Crew crew, WorkTimes times, Instant begin, Duration ahead, Mishaps mishaps) {
        try {
            return Rehearsal.of(set, crew, times::of, begin, ahead, mishaps);
        } catch (IllegalArgumentException e) {
            throw new UsageException(set.source() + ": " + e.getMessage());
        }
    }
}
