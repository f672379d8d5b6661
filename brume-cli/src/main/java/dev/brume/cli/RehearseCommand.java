package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.JsonText;
import dev.brume.insight.rehearsal.Crew;
import dev.brume.insight.rehearsal.Foresight;
import dev.brume.insight.rehearsal.Present;
import dev.brume.insight.rehearsal.Rehearsal;
import dev.brume.insight.rehearsal.WorkTimes;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
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
            "  brume rehearse new.yaml --against harbour.yaml"
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

    @Mixin
    private WhereOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        if (length.compareTo(LONGEST) > 0 || length.isNegative() || length.isZero()) {
            throw new UsageException("--for " + Durations.format(length) + " is outside 1s to 3660d");
        }
        Crew crew = crew();
        Map<String, Duration> takes = stated();
        boolean needsStore = STORE.equals(file) || STORE.equals(against) || withOthers;
        Present present = needsStore || options.isThere()
                ? options.ask(at -> Present.of(at.history(), at.took(measured)))
                : Present.NOTHING;
        Instant begin = Times.parse("--from", from, look.viewerZone(), Times.now());
        DefinitionSet set = definitions(file, present);
        WorkTimes times = new WorkTimes(present.took(), takes);
        Foresight after = rehearse(set, crew, times, begin, length);
        PrintWriter out = spec.commandLine().getOut();
        Optional<Foresight> earlier = Optional.ofNullable(against)
                .map(name -> rehearse(definitions(name, present), crew, times, begin, length));
        if (look.json()) {
            out.println(JsonText.pretty(InsightViews.foresight(after, earlier)));
        } else {
            ForesightPrinter printer = new ForesightPrinter(look, out);
            printer.head(set, crew, times.words(set), after);
            earlier.ifPresentOrElse(
                    old -> printer.compare(String.valueOf(against), old, file, after), () -> printer.print(after));
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

    private static Foresight rehearse(DefinitionSet set, Crew crew, WorkTimes times, Instant begin, Duration ahead) {
        try {
            return Rehearsal.of(set, crew, times::of, begin, ahead);
        } catch (IllegalArgumentException e) {
            throw new UsageException(set.source() + ": " + e.getMessage());
        }
    }
}
