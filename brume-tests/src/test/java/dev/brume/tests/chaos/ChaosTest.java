package dev.brume.tests.chaos;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.Store;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mariadb.jdbc.MariaDbDataSource;
import org.postgresql.ds.PGSimpleDataSource;

/**
 * Real processes on a real server, killed, frozen inside their transactions beyond their lease, cut off, restarted under
 * load, with a foreign transaction held open all the while. What the jobs wrote down by themselves is held against the
 * ledger at the end.
 *
 * <p>The short form does each thing once. The long one, {@code -Dbrume.chaos.minutes=N}, does them in a random order, from
 * {@code -Dbrume.chaos.seed}, and leaves its result in {@code target/chaos-*.txt}.
 */
@Tag("long")
class ChaosTest {
    private static final int LEASE = 3;
    private static final int INSTANCES = 3;
    private static final int MINUTES = Integer.getInteger("brume.chaos.minutes", 0);
    private static final long SEED = Long.getLong("brume.chaos.seed", 1);
    private static final String SKEW = System.getProperty("brume.chaos.skew", "");

    @TempDir
    private Path folder;

    private final List<ChaosProcess> processes = new ArrayList<>();
    private final Map<String, Integer> done = new TreeMap<>();
    private final List<Long> takeovers = new ArrayList<>();
    private ChaosServer server;
    private String schema;
    private Path record;
    private Store store;
    private Connection foreign;
    private int launched;

    @AfterEach
    void end() throws Exception {
        for (ChaosProcess process : processes) {
            process.destroy();
        }
        server.close();
    }

    @Test
    void nothingIsLostOrDoneTwiceOnPostgres() throws Exception {
        server = ChaosServer.postgres(folder);
        schema = "chaos";
        storm("postgresql");
    }

    @Test
    void nothingIsLostOrDoneTwiceOnMariaDb() throws Exception {
        server = ChaosServer.mariadb(folder);
        schema = "-";
        storm("mariadb");
    }

    // The storm.

    private interface Blow {
        void strike() throws Exception;
    }

    private void storm(String name) throws Exception {
        record = folder.resolve("record");
        Files.createFile(record);
        store = open();
        define();
        for (int i = 0; i < INSTANCES; i++) {
            launch();
        }
        foreign = server.foreignTransaction(table("brume_run"));
        Map<String, Blow> blows = new TreeMap<>(Map.of(
                "killed", this::kill,
                "frozen in plan", () -> freezeIn("plan"),
                "frozen in finish", () -> freezeIn("finish"),
                "frozen in a guarded transaction", () -> freezeIn("guarded"),
                "cut off", this::cutOff,
                "server restarted", this::restart,
                "stopped in good order", this::stop));
        long until = System.nanoTime() + Duration.ofMinutes(MINUTES).toNanos();
        if (MINUTES == 0) {
            for (Map.Entry<String, Blow> blow : blows.entrySet()) {
                strike(blow);
            }
        } else {
            SplittableRandom random = new SplittableRandom(SEED);
            List<Map.Entry<String, Blow>> all = List.copyOf(blows.entrySet());
            while (System.nanoTime() - until < 0) {
                strike(all.get(random.nextInt(all.size())));
            }
        }
        foreign.close();
        for (ChaosProcess process : processes) {
            process.signal("TERM");
        }
        for (ChaosProcess process : processes) {
            process.awaitEnd();
        }
        report(name, compare());
    }

    private void strike(Map.Entry<String, Blow> blow) throws Exception {
        blow.getValue().strike();
        done.merge(blow.getKey(), 1, Integer::sum);
        awaitSuccessAfter(store.history().now());
    }

    private JdbcStore open() throws SQLException {
        String url = server.url(server.port());
        if (schema.equals("-")) {
            return JdbcStore.on(new MariaDbDataSource(url));
        }
        PGSimpleDataSource postgres = new PGSimpleDataSource();
        postgres.setURL(url);
        return JdbcStore.builder(postgres).schema(schema).build();
    }

    private String table(String name) {
        return schema.equals("-") ? name : schema + "." + name;
    }

    private void define() throws SQLException {
        Brume brume = Brume.on(store).instance("office").build();
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            jobs.add(job("buoy-" + i, 1, "note").build());
        }
        jobs.add(job("inspection", 2, "long").ifBusy(IfBusy.alongside(3)).build());
        jobs.add(job("dues-0", 1, "dues").build());
        jobs.add(job("dues-1", 1, "dues").build());
        brume.define(jobs, "chaos");
        try (Connection connection = server.connect();
                Statement statement = connection.createStatement()) {
            statement.execute("create table " + table("dues") + " (run bigint not null, fence bigint not null)");
        }
    }

    static Job.Builder job(String name, int seconds, String handler) {
        return Job.named(name)
                .every(Duration.ofSeconds(seconds))
                .handler(handler)
                .ifBusy(IfBusy.waiting(5))
                .ifMissed(IfMissed.runEach(3).tolerance(Duration.ofSeconds(10)));
    }

    /** One that cannot reach the database at its very start ends, and is started again, as whoever looks after it would. */
    private void launch() throws Exception {
        for (int attempt = 1; !launchOne(attempt == 5); attempt++) {
            assertThat(attempt).as("starts in vain").isLessThan(5);
        }
    }

    private boolean launchOne(boolean last) throws Exception {
        int number = launched++;
        // Every other machine's wall clock is wrong, if that is asked for.
        List<String> prefix = SKEW.isEmpty() || number % 2 == 0 ? List.of() : List.of("faketime", "-f", SKEW);
        ChaosProcess process = ChaosProcess.on(server, "quay-" + number, schema, LEASE, record, prefix);
        try {
            process.await("READY");
        } catch (AssertionError e) {
            if (last || !process.hasEnded()) {
                throw e;
            }
            process.destroy();
            return false;
        }
        processes.add(process);
        return true;
    }

    private ChaosProcess holderOf(String job) {
        return until(open -> open.history().runs(RunFilter.newest(200)).stream()
                .filter(run -> run.job().name().startsWith(job) && run.outcome().isEmpty())
                .flatMap(run -> run.lastAttempt().stream())
                .filter(attempt -> attempt.end().isEmpty())
                .flatMap(attempt ->
                        processes.stream().filter(process -> process.name().equals(attempt.instance())))
                .findFirst());
    }

    /** Which instance plans and runs a job is for its share of the jobs to say: the one that has begun a run just now. */
    private ChaosProcess whoRuns(String job) {
        Instant now = store.history().now();
        return until(open -> open.history().runs(RunFilter.newest(200)).stream()
                .filter(run -> run.job().name().startsWith(job))
                .flatMap(run -> run.lastAttempt().stream())
                .filter(attempt -> attempt.startedAt().isAfter(now))
                .flatMap(attempt ->
                        processes.stream().filter(process -> process.name().equals(attempt.instance())))
                .findFirst());
    }

    private <T> T until(Function<Store, Optional<T>> look) {
        long limit = System.nanoTime() + Duration.ofSeconds(90).toNanos();
        while (System.nanoTime() - limit < 0) {
            Optional<T> found = look.apply(store);
            if (found.isPresent()) {
                return found.get();
            }
        }
        throw new AssertionError("waited in vain: " + store.history().runs(RunFilter.newest(20)));
    }

    private void awaitSuccessAfter(Instant instant) {
        until(open -> open.history().runs(RunFilter.newest(100)).stream()
                .filter(run -> run.outcome().equals(Optional.of(Outcome.SUCCEEDED)))
                .filter(run -> run.lastAttempt()
                        .flatMap(Attempt::endedAt)
                        .filter(instant::isBefore)
                        .isPresent())
                .findFirst());
    }

    /** Waits by the database's clock. */
    private void pass(Duration duration) {
        Instant until = store.history().now().plus(duration);
        until(open -> open.history().now().isAfter(until) ? Optional.of(until) : Optional.empty());
    }

    private void kill() throws Exception {
        ChaosProcess victim = holderOf("inspection");
        Instant killed = store.history().now();
        victim.signal("KILL");
        victim.awaitEnd();
        processes.remove(victim);
        launch();
        Attempt next = until(open -> open.history().runs(RunFilter.newest(200)).stream()
                .filter(run -> run.attempts().size() > 1)
                .filter(run -> run.attempts().stream()
                        .anyMatch(attempt -> attempt.instance().equals(victim.name())
                                && attempt.end().equals(Optional.of(AttemptEnd.LOST))))
                .flatMap(run -> run.attempts().stream()
                        .filter(attempt -> !attempt.instance().equals(victim.name())))
                .filter(attempt -> attempt.startedAt().isAfter(killed))
                .findFirst());
        takeovers.add(Duration.between(killed, next.startedAt()).toMillis());
    }

    /** Whoever ran a job lately need not run it next: the jobs are shared out anew when one joins or leaves, as after the blow before. */
    private ChaosProcess walksInto(String trap) throws Exception {
        while (true) {
            ChaosProcess victim = whoRuns(trap.equals("guarded") ? "dues" : "");
            victim.order("trap " + trap);
            if (victim.says("AT " + trap, Duration.ofSeconds(2 * LEASE))) {
                return victim;
            }
            victim.order("trap nothing");
            if (victim.says("AT " + trap, Duration.ofSeconds(1))) {
                return victim;
            }
        }
    }

    private void freezeIn(String trap) throws Exception {
        ChaosProcess victim = walksInto(trap);
        victim.signal("STOP");
        pass(Duration.ofSeconds(LEASE + 1));
        victim.signal("CONT");
        victim.order("go");
    }

    private void cutOff() throws Exception {
        ChaosProcess victim = processes.get(0);
        victim.proxy().cut();
        pass(Duration.ofSeconds(LEASE + 1));
        victim.proxy().mend();
        victim.await("JOINED");
    }

    private void restart() throws Exception {
        foreign.close();
        server.restart();
        foreign = server.foreignTransaction(table("brume_run"));
    }

    /** Stopped without patience, so that what it runs is handed back and goes on elsewhere at once. */
    private void stop() throws Exception {
        ChaosProcess leaving = holderOf("inspection");
        leaving.signal("TERM");
        leaving.awaitEnd();
        processes.remove(leaving);
        launch();
    }

    // The reckoning.

    private record Reckoning(int attempts, int ended, int dues, int lost, List<Long> handovers) {}

    private Reckoning compare() throws Exception {
        IndependentRecord own = new IndependentRecord(record);
        List<RunView> runs = store.history().runs(RunFilter.newest(1_000_000));
        int began = own.heldAgainst(runs);
        int dues = compareDues(runs);
        int lost = (int) runs.stream()
                .flatMap(run -> run.attempts().stream())
                .filter(attempt -> attempt.end().equals(Optional.of(AttemptEnd.LOST)))
                .count();
        int ended = (int) runs.stream().filter(run -> run.outcome().isPresent()).count();
        return new Reckoning(began, ended, dues, lost, handovers(runs));
    }

    /** What guarded transactions wrote is there once for each of their runs that succeeded, under its last fence. */
    private int compareDues(List<RunView> runs) throws SQLException {
        Map<Long, Long> booked = new TreeMap<>();
        try (Connection connection = server.connect();
                Statement statement = connection.createStatement();
                var rows = statement.executeQuery("select run, fence from " + table("dues"))) {
            while (rows.next()) {
                assertThat(booked.put(rows.getLong(1), rows.getLong(2)))
                        .as("run %s is booked twice", rows.getLong(1))
                        .isNull();
            }
        }
        Map<Long, Long> succeeded = runs.stream()
                .filter(run -> run.job().name().startsWith("dues"))
                .filter(run -> run.outcome().equals(Optional.of(Outcome.SUCCEEDED)))
                .collect(Collectors.toMap(
                        RunView::id, run -> run.lastAttempt().orElseThrow().fence()));
        assertThat(booked).isEqualTo(succeeded);
        return booked.size();
    }

    /** From the end of an attempt that was handed back to the beginning of the next, elsewhere. */
    private static List<Long> handovers(List<RunView> runs) {
        List<Long> millis = new ArrayList<>();
        for (RunView run : runs) {
            for (int i = 1; i < run.attempts().size(); i++) {
                Attempt before = run.attempts().get(i - 1);
                if (before.end().equals(Optional.of(AttemptEnd.HANDED_BACK))) {
                    Instant begun = run.attempts().get(i).startedAt();
                    millis.add(Duration.between(before.endedAt().orElseThrow(), begun)
                            .toMillis());
                }
            }
        }
        return millis;
    }

    private void report(String name, Reckoning reckoning) throws Exception {
        String text = "chaos on " + name + (MINUTES == 0 ? "" : ", " + MINUTES + " minutes, seed " + SEED)
                + (SKEW.isEmpty() ? "" : ", every other wall clock " + SKEW) + ": " + done + "; " + reckoning.ended
                + " runs ended, " + reckoning.attempts + " attempts began, " + reckoning.lost
                + " were lost and taken over, "
                + reckoning.dues + " guarded commits; duplicates 0, unexplained 0; takeovers after SIGKILL " + takeovers
                + " ms with a lease of " + LEASE + " s, handovers after a draining stop " + reckoning.handovers + " ms";
        System.out.println(text);
        if (MINUTES > 0) {
            Files.writeString(Path.of("target", "chaos-" + name + ".txt"), text + "\n");
        }
    }
}
