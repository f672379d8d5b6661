package dev.brume.cli;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Role;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Predicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Shows what Brume does, on the spot. */
@Command(
        name = "demo",
        mixinStandardHelpOptions = true,
        description = "The harbour office of the Merrow Isles for a minute: three instances as processes of their own"
                + " on one embedded database, one of them killed in the middle of a run. What they did stays in a"
                + " folder to be looked at.")
final class DemoCommand implements Callable<Integer> {
    private static final int ARRIVED_SHOWN = 12;
    private static final Pattern AT_THE_BOARD = Pattern.compile(".* /notices  (.*)  -> (\\d+)");

    private static final int CONNECTIONS = 8;

    /** The namespaces of the demo: that of the office, and that of the story of a minute. */
    private static final Grant OFFICE = Grant.within(List.of(JobName.MAIN, "minute"), Role.AUTHOR);

    @Option(
            names = "--data",
            paramLabel = "FOLDER",
            defaultValue = "brume-demo",
            description = "Where to keep it; an earlier demo there is replaced. Default: ${DEFAULT-VALUE}.")
    private Path folder;

    @Option(
            names = "--seconds",
            paramLabel = "N",
            defaultValue = "55",
            description = "How long it may take, at least 10; it ends earlier once everything was seen."
                    + " Default: ${DEFAULT-VALUE}.")
    private int seconds;

    @Option(
            names = "--http",
            paramLabel = "HOST:PORT",
            defaultValue = "127.0.0.1:0",
            description =
                    "Where to serve it over HTTP meanwhile; port 0 takes any that is free. Default: ${DEFAULT-VALUE}.")
    private String http;

    @Option(
            names = "--stay",
            negatable = true,
            description =
                    "Goes on serving after the story until it is stopped; so it does on a terminal unless --no-stay is given.")
    private @Nullable Boolean stay;

    private final List<Arrival> arrived = new CopyOnWriteArrayList<>();

    @Mixin
    private HttpOptions httpOptions;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws IOException, InterruptedException, SQLException {
        if (seconds < 10 || seconds > 3600) {
            throw new UsageException("--seconds " + seconds + " is outside 10 to 3600");
        }
        HttpOptions.Place place = HttpOptions.Place.parse("--http", http);
        PrintWriter out = spec.commandLine().getOut();
        Palette palette = look.palette();
        try (StandIn board = StandIn.open(
                0, List.of(503, 200), Optional.of(Duration.ofSeconds(2)), Optional.empty(), this::arrived)) {
            DemoWorld world = DemoWorld.create(folder, board.port());
            introduce(out, palette);
            out.flush();
            play(world, place, out, palette);
            sumUpBoard(board.port(), out);
        }
        return ExitCode.OK;
    }

    /** A request with notices, and how it was answered: at first the board refuses. */
    private record Arrival(String text, int status) {
        @Override
        public String toString() {
            return status < 300 ? text : text + " (answered with " + status + ", so it is sent again)";
        }
    }

    /** Notices are among what is posted to the board. */
    private void arrived(String line) {
        Matcher match = AT_THE_BOARD.matcher(line);
        if (match.matches()) {
            arrived.add(new Arrival(match.group(1), Integer.parseInt(match.group(2))));
        }
    }

    private void sumUpNotices(PrintWriter out, Palette palette) {
        out.println();
        out.println(palette.bold("What arrived") + " at the board of the office meanwhile:");
        arrived.stream().limit(ARRIVED_SHOWN).forEach(arrival -> out.println("  " + arrival));
        if (arrived.size() > ARRIVED_SHOWN) {
            out.println("  and " + (arrived.size() - ARRIVED_SHOWN) + " more times");
        }
    }

    private void sumUpBoard(int port, PrintWriter out) {
        line(out, command() + " echo --port " + port, "the notice board that tide-notice posts to, meanwhile");
    }

    private void play(DemoWorld world, HttpOptions.Place place, PrintWriter out, Palette palette)
            throws SQLException, InterruptedException, IOException {
        try (Stopping stopping = Stopping.onceAwaited();
                EmbeddedDatabase database = EmbeddedDatabase.open(world.folder(), EmbeddedDatabase.Role.HOST);
                HikariDataSource pool = StoreOptions.pool(database.opened(), CONNECTIONS, JdbcStore.LIMIT)) {
            JdbcStore store =
                    JdbcStore.builder(pool).description(database.description()).build();
            store.prepare();
            liveThroughThePast(world, pool, store.history().now(), out, palette);
            try (Brume office = Brume.on(store).withoutLog().instance("office").build();
                    HttpOptions.Serving serving = httpOptions.serve(office, place, world.folder())) {
                office.define(DefinitionFile.read(world.minute()).definitions());
                tellWhere(serving, out, palette);
                try (DemoShow show = new DemoShow(world, out, palette, look.viewerZone())) {
                    show.play(office, Duration.ofSeconds(seconds));
                }
                sumUpNotices(out, palette);
                sumUp(store, out, palette);
                goOnServing(serving, stopping, out);
            }
        }
    }

    /** The key is in a file; a link, which whoever reads it can use, is for a terminal alone. */
    private void tellWhere(HttpOptions.Serving serving, PrintWriter out, Palette palette) {
        out.println(palette.bold("-- over HTTP -- ") + serving.server().address() + "; the key in "
                + folder.resolve("http-key") + " lets look");
        if (System.console() != null) {
            line(
                    out,
                    HttpLink.link(serving, System.getProperty("user.name"), OFFICE),
                    "signs in once, as author of the office");
        }
        out.flush();
    }

    private void goOnServing(HttpOptions.Serving serving, Stopping stopping, PrintWriter out)
            throws InterruptedException {
        if (stay == null ? System.console() != null : stay) {
            out.println();
            out.println("Still serving " + serving.server().address() + "; Ctrl-C ends it.");
            out.flush();
            stopping.await();
            stopping.isInOrder();
        }
    }

    private static void liveThroughThePast(
            DemoWorld world, DataSource database, Instant now, PrintWriter out, Palette palette) {
        out.println(
                palette.bold("-- the past -- ")
                        + "a week of the office, and its nights since clocks last changed, lived by the engine in virtual time");
        out.flush();
        DemoHistory.write(
                DefinitionFile.read(world.definitions()),
                now,
                time -> JdbcStore.builder(database)
                        .withoutSchemaChanges()
                        .clock(time)
                        .build());
    }

    private void introduce(PrintWriter out, Palette palette) {
        out.println(palette.bold("The harbour office of the Merrow Isles"));
        out.println("Three instances, quay-1 to quay-3, share the jobs of " + folder.resolve("harbour.yaml") + ".");
        out.println(
                "Each occurrence runs once; watch for what was missed, the skipped overlap, the retry, and the takeover.");
        out.println();
    }

    private void sumUp(JdbcStore store, PrintWriter out, Palette palette) {
        List<RunView> runs = store.history().runs(RunFilter.newest(10_000));
        Map<Outcome, Long> outcomes = runs.stream()
                .flatMap(run -> run.outcome().stream())
                .collect(Collectors.groupingBy(outcome -> outcome, TreeMap::new, Collectors.counting()));
        String counts = outcomes.entrySet().stream()
                .map(entry ->
                        entry.getValue() + " " + palette.word(entry.getKey().name()))
                .collect(Collectors.joining(", "));
        out.println();
        out.println(palette.bold("In the ledger: ") + counts);
        out.println();
        out.println("It is all in " + folder + ". Try:");
        String command = command();
        String data = " --data " + folder;
        line(out, command + " jobs" + data, "which jobs exist, last and next run");
        line(out, command + " runs" + data, "what ran, where, how long, and why not");
        findRun(runs, "lamp-inspection", run -> run.attempts().size() > 1)
                .ifPresent(id -> line(out, command + " show " + id + data, "the run that was taken over"));
        findRun(runs, "harbour-dues", run -> run.attempts().size() > 1)
                .ifPresent(id -> line(out, command + " show " + id + data, "the failed attempt and its retry"));
        line(out, command + " why harbour-dues --at 24h" + data, "what became of an occurrence, and why");
        line(out, command + " tally --from 7d" + data, "what the week owed, against what is on record");
        line(out, command + " stats --from 7d" + data, "how runs ended, how long they took, how late they began");
        line(out, command + " changes" + data, "who changed or ordered what, and why");
        line(out, command + " notices" + data, "what was told of it all, to whom, and whether it arrived");
        line(out, command + " notices causes" + data, "what is wrong now");
        line(out, command + " doctor" + data, "what is wrong, and what to do about it");
        line(out, command + " console" + data, "the same over HTTP, for programs and for people's pages");
        line(
                out,
                command + " rehearse " + folder.resolve("harbour.yaml") + " --for 14d --instances 3" + data,
                "the two weeks to come");
        line(out, command + " instances --all" + data, "the three, and the one that was killed");
        line(
                out,
                command + " serve --definitions " + folder.resolve("harbour.yaml") + data,
                "go on; then 'brume jobs --watch' beside it");
    }

    private static String command() {
        return Optional.ofNullable(System.getenv("BRUME_COMMAND")).orElse("brume");
    }

    private static void line(PrintWriter out, String command, String what) {
        out.println("  " + command);
        out.println("      " + what);
    }

    private static Optional<Long> findRun(List<RunView> runs, String job, Predicate<RunView> condition) {
        return runs.stream()
                .filter(run -> run.job().name().equals(job))
                .filter(condition)
                .map(RunView::id)
                .reduce((newer, older) -> older);
    }
}
