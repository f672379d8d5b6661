package dev.brume.tests.chaos;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.history.ChangeFilter;
import dev.brume.history.RunFilter;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Three processes on one embedded database, whose file has seen much use; whoever owns it is killed, again and again: from work, from a
 * freeze, and soon after another owner died. What was acknowledged stays, nothing begins twice under one fence, and nobody finds
 * the database older than it was.
 *
 * <p>The short form kills a few. The long one, {@code -Dbrume.owners.deaths=N}, leaves its result in {@code target/owners-die.txt}.
 */
@Tag("long")
class OwnersDieTest {
    private static final int LEASE = 3;
    private static final int INSTANCES = 3;
    private static final int DEATHS = Integer.getInteger("brume.owners.deaths", 4);
    private static final boolean LONG = DEATHS > 50;
    private static final Duration PATIENCE = Duration.ofSeconds(90);

    @TempDir
    private Path folder;

    private final SplittableRandom random = new SplittableRandom(Long.getLong("brume.chaos.seed", 1));
    private final List<ChaosProcess> processes = new ArrayList<>();
    private final Map<String, Integer> done = new TreeMap<>();
    private final List<String> strikes = new ArrayList<>();
    private Path record;
    private IndependentRecord own;
    private int launched;

    @AfterEach
    void end() throws Exception {
        for (ChaosProcess process : processes) {
            process.destroy();
        }
    }

    @Test
    void whatWasAcknowledgedOutlivesEveryOwner() throws Exception {
        record = Files.createFile(folder.resolve("record"));
        own = new IndependentRecord(record);
        age(LONG ? 60_000 : 3_000);
        define();
        for (int i = 0; i < INSTANCES; i++) {
            launch();
        }
        for (int death = 0; death < DEATHS; death++) {
            strike(death);
        }
        for (ChaosProcess process : processes) {
            process.signal("TERM");
            process.awaitEnd();
        }
        try {
            reckon();
        } catch (AssertionError e) {
            throw new AssertionError(e.getMessage() + "\n\n" + String.join("\n", strikes) + "\nkept in " + keep(), e);
        }
    }

    /** What a failure is explained with. */
    private Path keep() throws IOException {
        Path kept = Files.createDirectories(
                Path.of("target", "owners-die-" + ProcessHandle.current().pid()));
        for (String name : List.of("brume.mv.db", "numbers", "secret")) {
            Files.copy(data().resolve(name), kept.resolve(name), StandardCopyOption.REPLACE_EXISTING);
        }
        Files.copy(record, kept.resolve("record"), StandardCopyOption.REPLACE_EXISTING);
        return kept;
    }

    /** Rows that came and went have left gaps all over the file. */
    private void age(int rows) throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(data(), EmbeddedDatabase.Role.VISITOR);
                Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("create table ballast (id integer primary key, text varchar)");
            try (PreparedStatement insert = connection.prepareStatement("insert into ballast values (?, ?)")) {
                for (int row = 0; row < rows; row++) {
                    insert.setInt(1, row);
                    insert.setString(2, "x".repeat(500 + random.nextInt(1500)));
                    insert.executeUpdate();
                }
            }
            for (int part = 0; part < 7; part++) {
                statement.execute("delete from ballast where mod(id, 8) = " + part);
            }
        }
    }

    private Path data() {
        return folder.resolve("data");
    }

    private void define() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(data(), EmbeddedDatabase.Role.VISITOR);
                Brume brume =
                        Brume.on(JdbcStore.on(database)).instance("office").build();
                Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("create table dues (run bigint not null, fence bigint not null)");
            List<Job> jobs = new ArrayList<>();
            for (int i = 0; i < 6; i++) {
                jobs.add(ChaosTest.job("buoy-" + i, 1, "note").build());
            }
            jobs.add(ChaosTest.job("inspection", 2, "long")
                    .ifBusy(IfBusy.alongside(3))
                    .build());
            jobs.add(ChaosTest.job("dues", 1, "dues").build());
            brume.define(jobs, "chaos");
        }
    }

    private void launch() throws Exception {
        ChaosProcess process = ChaosProcess.in(data(), "quay-" + launched++, LEASE, record);
        processes.add(process);
        process.await("READY");
    }

    /** Every third owner is frozen first; before every other death the owner before left in good order. */
    private void strike(int number) throws Exception {
        if (number % 2 == 1) {
            leave();
        }
        awaitMoreThatBegan(1 + random.nextInt(20));
        ChaosProcess victim = owner();
        boolean frozen = number % 3 == 2;
        if (frozen) {
            victim.signal("STOP");
            pass(Duration.ofMillis(200 + random.nextInt(LEASE * 1500)));
        }
        strikes.add(Instant.now() + " " + victim.name() + (frozen ? " killed while frozen" : " killed"));
        victim.signal("KILL");
        victim.awaitEnd();
        processes.remove(victim);
        done.merge(frozen ? "killed while frozen" : "killed at work", 1, Integer::sum);
        if (number % 2 == 0) {
            done.merge("without a clean close before", 1, Integer::sum);
        }
        // Those that are left go on by themselves.
        awaitMoreThatBegan(3);
        launch();
    }

    private void leave() throws Exception {
        ChaosProcess leaving = owner();
        strikes.add(Instant.now() + " " + leaving.name() + " leaves");
        leaving.signal("TERM");
        leaving.awaitEnd();
        processes.remove(leaving);
        done.merge("left in good order", 1, Integer::sum);
        launch();
    }

    /** The one that says so, once one has come to own the file. */
    private ChaosProcess owner() throws Exception {
        long limit = System.nanoTime() + PATIENCE.toNanos();
        while (System.nanoTime() - limit < 0) {
            for (ChaosProcess process : processes) {
                process.order("owner?");
                if (process.await("OWNER").equals("OWNER true")) {
                    return process;
                }
            }
        }
        throw new AssertionError("nobody owns the database");
    }

    private void awaitMoreThatBegan(int more) throws Exception {
        int enough = own.begun() + more;
        long limit = System.nanoTime() + PATIENCE.toNanos();
        while (own.begun() < enough) {
            if (System.nanoTime() - limit >= 0) {
                for (ChaosProcess process : processes) {
                    System.out.println(process.name() + " said " + process.lastSaid() + "\n" + process.threads());
                }
                throw new AssertionError("no work went on for " + PATIENCE + "; kept in " + keep());
            }
            Thread.onSpinWait();
        }
    }

    /** Time itself is what a freeze consists of. */
    private static void pass(Duration duration) {
        long until = System.nanoTime() + duration.toNanos();
        while (System.nanoTime() - until < 0) {
            Thread.onSpinWait();
        }
    }

    private void reckon() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(data(), EmbeddedDatabase.Role.VISITOR)) {
            JdbcStore store = JdbcStore.on(database);
            store.prepare();
            int began = own.heldAgainst(store.history().runs(RunFilter.newest(1_000_000)));
            assertThat(store.history().changes(ChangeFilter.newest(10).withKind("EPOCH_RAISED")))
                    .as("nobody found an older copy")
                    .isEmpty();
            String text = DEATHS + " deaths of owners (" + done + "), file of "
                    + Files.size(data().resolve("brume.mv.db")) + " bytes: " + began
                    + " attempts began; acknowledged and lost 0, begun twice 0, epochs raised 0";
            System.out.println(text);
            if (LONG) {
                Files.writeString(Path.of("target", "owners-die.txt"), text + "\n");
            }
        }
    }
}
