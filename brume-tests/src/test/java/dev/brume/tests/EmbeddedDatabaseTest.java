package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.history.ChangeFilter;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.NewJob;
import java.io.BufferedReader;
import java.io.IOException;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcConnectionPool;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The database in a folder: shared, closed to strangers, and durable when its process is halted. */
class EmbeddedDatabaseTest {
    @TempDir
    private Path folder;

    private static DataSource source(String... args) {
        return args.length == 1
                ? EmbeddedDatabase.open(Path.of(args[0]), EmbeddedDatabase.Role.HOST)
                : JdbcConnectionPool.create(hostsOwn(args[0]), "", "");
    }

    /** As an application would write it, knowing nothing of write delays: half a second of commits is in memory alone. */
    private static String hostsOwn(String folder) {
        return "jdbc:h2:file:" + folder + "/application";
    }

    /** Defines jobs one commit at a time and halts right after the last, without closing anything. */
    static final class Halting {
        private Halting() {}

        public static void main(String[] args) {
            JdbcStore store = JdbcStore.on(source(args));
            store.prepare();
            for (int i = 0; i < 50; i++) {
                Job job = Job.named("job-" + i)
                        .every(Duration.ofHours(1))
                        .program("true")
                        .build();
                store.transact(tx -> tx.addJobs(List.of(NewJob.plain(job, "test", Instant.EPOCH, Optional.empty()))));
            }
            System.out.println("committed");
            System.out.flush();
            Runtime.getRuntime().halt(9);
        }
    }

    /** Uses H2 in its own way first, so that its server could no longer be kept from other machines. */
    static final class UsedBefore {
        private UsedBefore() {}

        public static void main(String[] args) throws Exception {
            JdbcConnectionPool.create("jdbc:h2:mem:earlier", "", "")
                    .getConnection()
                    .close();
            try (EmbeddedDatabase database = EmbeddedDatabase.open(Path.of(args[0]), EmbeddedDatabase.Role.HOST)) {
                JdbcStore.on(database).prepare();
                int port = Integer.parseInt(
                        Files.readAllLines(Path.of(args[0], "endpoint")).get(0));
                System.out.println(isOpen("127.0.0.1", port) + " " + isOpen("127.0.0.2", port));
            }
        }
    }

    /** What listens on every address listens on this one too. */
    private static boolean isOpen(String address, int port) {
        try (Socket socket = new Socket(address, port)) {
            return socket.isConnected();
        } catch (IOException refused) {
            return false;
        }
    }

    @Test
    void itIsSharedOnOneAddressOfThisMachineAlone() throws Exception {
        Process process = process(UsedBefore.class);
        try (BufferedReader reader = process.inputReader(StandardCharsets.UTF_8)) {
            assertThat(reader.lines()).last().isEqualTo("true false");
        }
        assertThat(process.waitFor()).isZero();
    }

    private Process process(Class<?> program, String... more) throws IOException {
        List<String> command = new ArrayList<>(List.of(
                ProcessHandle.current().info().command().orElse("java"),
                "-cp",
                System.getProperty("java.class.path"),
                program.getName(),
                folder.toString()));
        command.addAll(List.of(more));
        return new ProcessBuilder(command)
                .redirectError(ProcessBuilder.Redirect.INHERIT)
                .start();
    }

    private void haltRightAfterCommits(String... kind) throws Exception {
        Process process = process(Halting.class, kind);
        try (BufferedReader reader = process.inputReader(StandardCharsets.UTF_8)) {
            assertThat(reader.readLine()).isEqualTo("committed");
        }
        assertThat(process.waitFor()).isEqualTo(9);
    }

    @Test
    void whatWasCommittedOnAHostsOwnDataSourceOutlivesAHaltToo() throws Exception {
        haltRightAfterCommits("host");

        JdbcConnectionPool pool = JdbcConnectionPool.create(hostsOwn(folder.toString()), "", "");
        assertThat(JdbcStore.on(pool).history().jobs()).hasSize(50);
        pool.dispose();
    }

    @Test
    void whatWasCommittedOutlivesAHaltRightAfterwards() throws Exception {
        haltRightAfterCommits();

        // The endpoint it left behind is stale; the next to come owns the database.
        assertThat(folder.resolve("endpoint")).exists();
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.VISITOR)) {
            assertThat(JdbcStore.on(database).history().jobs()).hasSize(50);
        }
    }

    @Test
    void aSecondProcessVisitsTheOwnerAndTakesItsPlaceWhenItEnds() throws Exception {
        EmbeddedDatabase owner = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST);
        JdbcStore first = JdbcStore.on(owner);
        first.prepare();
        try (EmbeddedDatabase other = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            try (Connection visit = other.getConnection()) {
                assertThat(visit.getMetaData().getURL()).startsWith("jdbc:h2:tcp://127.0.0.1:");
            }
            owner.close();
            assertThat(JdbcStore.on(other).history().jobs()).isEmpty();
            try (Connection own = other.getConnection()) {
                assertThat(own.getMetaData().getURL()).startsWith("jdbc:h2:async:");
            }
        }
    }

    @Test
    void noNumberIsGivenOutAgainByAnOlderCopyOfTheDatabase() throws Exception {
        Path file = folder.resolve("brume.mv.db");
        Path older = folder.resolve("older");
        List<Long> given = new ArrayList<>();
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            given.addAll(draw(JdbcStore.on(database)));
        }
        Files.copy(file, older);
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            given.addAll(draw(JdbcStore.on(database)));
            JdbcStore.on(database)
                    .transact(tx -> tx.sessions().raiseEpoch(tx.sessions().epoch() + 4));
        }
        Files.move(older, file, java.nio.file.StandardCopyOption.REPLACE_EXISTING);

        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST);
                Brume office = Brume.on(JdbcStore.on(database))
                        .takesPrograms()
                        .instance("office")
                        .build()) {
            given.addAll(draw(JdbcStore.on(database)));
            assertThat(given).doesNotHaveDuplicates().isSorted();
            CountDownLatch joined = new CountDownLatch(1);
            office.listen("test", EventFilter.of(Event.Kind.JOINED), event -> joined.countDown());
            office.start();
            joined.await();
            assertThat(office.history().changes(ChangeFilter.newest(10)))
                    .as("the copy had not heard of an epoch that had begun")
                    .extracting(change -> change.change().text())
                    .contains("to 6: the database knows of epoch 0, and epoch 5 had begun");
        }
    }

    private static List<Long> draw(JdbcStore store) {
        store.prepare();
        return store.transact(tx -> tx.take(3)).ids();
    }

    @Test
    void aPoolAroundItDrawsTheSameNumbers() {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            HikariDataSource pool = new HikariDataSource();
            pool.setDataSource(database);
            List<Long> given = new ArrayList<>(draw(JdbcStore.on(pool)));
            given.addAll(draw(JdbcStore.on(database)));
            pool.close();

            assertThat(given).hasSize(6).doesNotHaveDuplicates();
        }
    }

    @Test
    void withoutTheFileOfNumbersANewEpochBegins() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            draw(JdbcStore.on(database));
        }
        Files.delete(folder.resolve("numbers"));

        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            JdbcStore store = JdbcStore.on(database);
            draw(store);
            assertThat(store.<Long>transact(tx -> tx.sessions().epoch())).isEqualTo(1);
        }
    }

    @Test
    void onlyThisMachineAndOnlyTheOwnerOfTheFilesGetIn() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            database.getConnection().close();
            for (String name : List.of("secret", "endpoint", "numbers")) {
                assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(folder.resolve(name))))
                        .isEqualTo("rw-------");
            }
            String port = Files.readAllLines(folder.resolve("endpoint")).get(0);
            assertThat(listenersOn(Integer.parseInt(port))).isNotEmpty().allMatch("0100007F"::equals);
        }
        assertThat(folder.resolve("endpoint")).doesNotExist();
    }

    /** The local addresses listening on a port, as the kernel has them. */
    private static List<String> listenersOn(int port) throws Exception {
        String suffix = String.format(":%04X", port);
        java.util.stream.Stream<String> lines = Files.readAllLines(Path.of("/proc/net/tcp")).stream();
        if (Files.exists(Path.of("/proc/net/tcp6"))) {
            lines = java.util.stream.Stream.concat(lines, Files.readAllLines(Path.of("/proc/net/tcp6")).stream());
        }
        return lines.map(line -> line.strip().split("\\s+"))
                .filter(fields -> fields.length > 3 && fields[1].endsWith(suffix) && fields[3].equals("0A"))
                .map(fields -> fields[1].substring(0, fields[1].indexOf(':')))
                .map(address -> address.equals("0000000000000000FFFF00000100007F") ? "0100007F" : address)
                .toList();
    }

    @Test
    void aFolderThatCannotBeUsedIsNamed() throws Exception {
        Path file = Files.writeString(folder.resolve("file"), "in the way");

        assertThatThrownBy(() -> EmbeddedDatabase.open(file, EmbeddedDatabase.Role.HOST))
                .isInstanceOf(StoreException.class)
                .hasMessageContaining(file.toString());
    }

    @Test
    void whoIsInterruptedWhileItWritesClosesTheFileToNobody() {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            JdbcStore store = JdbcStore.on(database);
            store.prepare();
            for (int i = 0; i < 50; i++) {
                NewJob job = NewJob.plain(
                        Job.named("job-" + i)
                                .every(Duration.ofHours(1))
                                .program("true")
                                .build(),
                        "test",
                        Instant.EPOCH,
                        Optional.empty());
                Thread.currentThread().interrupt();
                store.transact(tx -> tx.addJobs(List.of(job)));
            }
            assertThat(Thread.interrupted()).isTrue();
            assertThat(store.history().jobs()).hasSize(50);
        }
    }

    /** The newest chunk of H2's file is found along a chain that must not grow old; see {@code SteadyCommits}. */
    @Test
    void itsOwnerCommitsThoughNobodyElseDoes() throws Exception {
        Set<String> commits = new HashSet<>();
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST)) {
            JdbcStore.on(database).prepare();
            long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
            while (commits.size() < 2) {
                assertThat(System.nanoTime() - until).as("commits %s", commits).isNegative();
                try (Connection connection = database.getConnection();
                        Statement statement = connection.createStatement();
                        ResultSet rows = statement.executeQuery("select at from brume_turn")) {
                    while (rows.next()) {
                        commits.add(rows.getString(1));
                    }
                }
            }
        }
    }
}
