package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Work;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.JobView;
import dev.brume.insight.check.Warnings;
import dev.brume.internal.duty.Settings;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Runs an instance until it is told to stop. */
@Command(
        name = "serve",
        mixinStandardHelpOptions = true,
        description = "Runs an instance: defines the jobs of the files, then plans and runs whatever is due until it"
                + " is stopped. Start it as often as you like on one database; every occurrence runs once.",
        footerHeading = "%nStopping:%n",
        footer = {
            "  Ctrl-C or TERM lets runs end for up to --drain-limit, then hands the rest to other instances.",
            "",
            "Example:",
            "  brume serve --definitions harbour.yaml --http 127.0.0.1:8480",
            "  brume serve --definitions harbour.yaml --database \"jdbc:postgresql://db/harbour?user=brume\""
        })
final class ServeCommand implements Callable<Integer> {
    private static final int CONNECTIONS = 8;

    @Option(
            names = "--definitions",
            paramLabel = "FILE",
            description = "Jobs to define first, YAML or JSON; may be given several times.")
    private List<Path> files = List.of();

    @Option(
            names = "--name",
            paramLabel = "NAME",
            description = "The instance's name; host and process id unless given.")
    private @Nullable String name;

    @Option(
            names = "--workers",
            paramLabel = "N",
            defaultValue = "16",
            description = "How many runs of the lane main at once; default: ${DEFAULT-VALUE}.")
    private int workers;

    @Option(
            names = "--lane",
            paramLabel = "NAME=N",
            description = "Serves a lane with so many workers, and no others than those given so.")
    private Map<String, Integer> lanes = new LinkedHashMap<>();

    @Option(
            names = "--label",
            paramLabel = "NAME",
            description = "A label that this instance carries, which jobs may require; may be given several times.")
    private List<String> labels = List.of();

    @Option(names = "--no-programs", description = "Leaves jobs whose work is a program to other instances.")
    private boolean noPrograms;

    @Option(names = "--no-requests", description = "Leaves jobs whose work is an HTTP request to other instances.")
    private boolean noRequests;

    @Option(
            names = "--lease",
            paramLabel = "DURATION",
            defaultValue = "15s",
            description = "After a crash, runs go on elsewhere when this is over; default: ${DEFAULT-VALUE}.")
    private Duration lease;

    @Option(
            names = "--drain-limit",
            paramLabel = "DURATION",
            defaultValue = "30s",
            description = "How long runs may go on when stopping; default: ${DEFAULT-VALUE}.")
    private Duration drainLimit;

    @Option(names = "--take-over", description = "Define jobs that another file or program defines so far.")
    private boolean takeOver;

    @Option(
            names = "--http",
            paramLabel = "HOST:PORT",
            description =
                    "Serves the database over HTTP as well, such as 127.0.0.1:8480; port 0 takes any that is free. Beyond this"
                            + " machine only if there are tokens (brume token add).")
    private @Nullable String http;

    @Mixin
    private HttpOptions httpOptions;

    @Mixin
    private StoreOptions options;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws InterruptedException {
        List<DefinitionFile> definitions = new ArrayList<>();
        for (Path file : files) {
            definitions.add(ChangingFile.read(file, spec.commandLine().getErr()));
        }
        Sources.checkApart(definitions);
        checkLease();
        if (http != null) {
            HttpOptions.Place.parse("--http", http);
        }
        PrintWriter out = spec.commandLine().getOut();
        EventPrinter printer = new EventPrinter(out, look.json(), look.palette(), look.viewerZone());
        try (Stopping stopping = Stopping.fromNow()) {
            serve(definitions, printer, stopping);
            stopping.isInOrder();
        }
        return ExitCode.OK;
    }

    private void serve(List<DefinitionFile> definitions, EventPrinter printer, Stopping stopping)
            throws InterruptedException {
        try (StoreOptions.OpenStore open = options.host(CONNECTIONS, lease)) {
            Brume brume = build(open, printer);
            // Whoever asks is answered while the jobs are being defined.
            try (HttpOptions.Serving serving = serveOverHttp(brume)) {
                if (serving != null) {
                    HttpLink.tell(serving, spec.commandLine().getErr());
                }
                if (!takeOver) {
                    definitions.forEach(file -> Sources.checkOwn(brume.history(), file.definitions()));
                }
                definitions.forEach(file -> define(brume, file));
                startUpReport(brume, definitions)
                        .forEach(line -> spec.commandLine().getErr().println(line));
                serve(brume, stopping);
            }
        }
    }

    private HttpOptions.@Nullable Serving serveOverHttp(Brume brume) {
        return http == null
                ? null
                : httpOptions.serve(brume, HttpOptions.Place.parse("--http", http), options.folder());
    }

    /** Before the database is opened, which is given time by it. */
    private void checkLease() {
        try {
            Settings.checkedLease(lease);
        } catch (IllegalArgumentException e) {
            throw new UsageException("--" + e.getMessage());
        }
    }

    private Brume build(StoreOptions.OpenStore open, EventPrinter printer) {
        try {
            Brume.Builder builder = Brume.on(open.store())
                    .lease(lease)
                    .drainLimit(drainLimit)
                    .withoutLog()
                    .engineListener(printer);
            if (name != null) {
                builder.instance(name);
            }
            if (lanes.isEmpty()) {
                builder.workers(workers);
            }
            lanes.forEach(builder::lane);
            labels.forEach(builder::label);
            if (!noPrograms) {
                builder.takesPrograms();
            }
            if (!noRequests) {
                builder.takesRequests();
            }
            WaysOfTelling.by(builder, !noPrograms);
            return builder.build();
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    private void serve(Brume brume, Stopping stopping) throws InterruptedException {
        brume.start();
        Thread drained = new Thread(() -> awaitStopped(brume, stopping), "brume-drained");
        drained.setDaemon(true);
        drained.start();
        stopping.await();
        PrintWriter err = spec.commandLine().getErr();
        err.println("brume: stopping; runs may go on for " + Durations.format(drainLimit));
        boolean clean = brume.stop(drainLimit);
        err.println(
                clean ? "brume: stopped; all runs had ended" : "brume: stopped; what had not ended was handed back");
    }

    /** Someone else may ask the instance to drain; then the command has nothing left to do either. */
    private static void awaitStopped(Brume brume, Stopping stopping) {
        try {
            brume.awaitStopped();
            stopping.ask();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private static void define(Brume brume, DefinitionFile file) {
        try {
            brume.define(file.definitions());
        } catch (IllegalArgumentException e) {
            throw new UsageException(file.source() + ": " + e.getMessage());
        }
    }

    private Optional<String> notTaken(Job job) {
        return switch (job.work().needs()) {
            case Work.PROGRAMS ->
                noPrograms
                        ? Optional.of("is a program, which this instance does not take (--no-programs)")
                        : Optional.empty();
            case Work.REQUESTS ->
                noRequests
                        ? Optional.of("is a request, which this instance does not take (--no-requests)")
                        : Optional.empty();
            default ->
                Optional.of("needs the handler '" + job.work().needs()
                        + "', which this command does not have; an application that registers it must run beside");
        };
    }

    /** What someone who deploys this should know before the first run. */
    private List<String> startUpReport(Brume brume, List<DefinitionFile> definitions) {
        List<String> lines = new ArrayList<>();
        List<JobView> stored = brume.history().jobs();
        Instant now = brume.history().now();
        for (DefinitionFile file : definitions) {
            Set<JobName> named = file.jobs().stream().map(Job::name).collect(Collectors.toCollection(HashSet::new));
            stored.stream()
                    .filter(view -> view.row().source().equals(file.source()))
                    .filter(view -> !named.contains(view.row().name()))
                    .forEach(view -> lines.add("warning: " + view.row().name() + " was defined by " + file.source()
                            + " and is no longer in it; it goes on as before (to end it: brume drop "
                            + view.row().name() + ")"));
        }
        Set<String> served = lanes.isEmpty() ? Set.of(Job.MAIN_LANE) : lanes.keySet();
        Set<JobName> followers =
                Warnings.followers(stored.stream().map(JobView::job).toList());
        for (JobView view : stored) {
            Warnings.of(view.job(), now, followers)
                    .forEach(warning -> lines.add("warning: " + view.row().name() + ": " + warning));
            notTaken(view.job())
                    .ifPresent(why -> lines.add("warning: " + view.row().name() + " " + why));
            if (!labels.containsAll(view.job().requireLabels())) {
                lines.add("warning: " + view.row().name() + " requires the labels "
                        + String.join(", ", view.job().requireLabels())
                        + ", which this instance does not all carry (let it: --label NAME)");
            }
            if (!served.contains(view.job().lane())) {
                lines.add("warning: " + view.row().name() + " is in lane "
                        + view.job().lane() + ", which this instance does not serve (serve it: --lane "
                        + view.job().lane() + "=N)");
            }
        }
        return lines;
    }
}
