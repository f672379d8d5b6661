package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.EmbeddedDatabase.Role;
import dev.brume.tests.BrumeProcess.Result;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What another user of the machine can do to an embedded database: nothing. */
class IntrudersTest {
    private static final int GREETING_AND_WORD = 40;

    @TempDir
    private Path home;

    private Path folder;

    @BeforeEach
    void name() throws IOException {
        folder = home.resolve("data");
        Files.setPosixFilePermissions(home, PosixFilePermissions.fromString("rwxr-xr-x"));
    }

    private static String permissions(Path file) throws IOException {
        return PosixFilePermissions.toString(Files.getPosixFilePermissions(file));
    }

    private static int one(EmbeddedDatabase database) throws Exception {
        try (Connection connection = database.getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery("select 1")) {
            rows.next();
            return rows.getInt(1);
        }
    }

    private int endpointsPort() throws IOException {
        return Integer.parseInt(Files.readAllLines(folder.resolve("endpoint")).get(0));
    }

    // Files.

    @Test
    void folderAndFilesBelongToOneUserFromTheFirstByte() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, Role.HOST)) {
            one(database);
            assertThat(permissions(folder)).isEqualTo("rwx------");
            try (Stream<Path> files = Files.list(folder)) {
                assertThat(files)
                        .hasSize(4)
                        .allSatisfy(file -> assertThat(permissions(file)).isEqualTo("rw-------"));
            }
        }
    }

    @Test
    void whatWasOpenToOthersIsMendedWithAWord() throws Exception {
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwxrwxr-x"));
        Files.setPosixFilePermissions(folder.resolve("brume.mv.db"), PosixFilePermissions.fromString("rw-r--r--"));

        Result jobs = BrumeProcess.run(home, "doctor", "--data", "data");

        assertThat(jobs.err())
                .contains("was open to other users of this machine (rw-r--r--); it is rw------- now")
                .contains("was open to other users of this machine (rwxrwxr-x); it is rwx------ now");
        assertThat(permissions(folder)).isEqualTo("rwx------");
        assertThat(permissions(folder.resolve("brume.mv.db"))).isEqualTo("rw-------");
    }

    @Test
    void aFolderThatHoldsOtherThingsStaysReadableButNobodyElseWritesThere() throws Exception {
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        Files.writeString(folder.resolve("harbour.yaml"), "jobs: {}");
        Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwxrwxrwx"));

        EmbeddedDatabase.open(folder, Role.HOST).opened().close();

        assertThat(permissions(folder)).isEqualTo("rwxr-xr-x");
    }

    @Test
    void aFolderThatSomebodyElsePreparedIsNotUsed() throws Exception {
        assumeAnotherUser();
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        Files.setOwner(
                folder, folder.getFileSystem().getUserPrincipalLookupService().lookupPrincipalByName("nobody"));

        Result serve = BrumeProcess.run(home, "jobs", "--data", "data");

        assertThat(serve.exitCode()).isEqualTo(3);
        assertThat(serve.err()).contains("belongs to the user nobody, and this process runs as");
    }

    private static int asNobody(String... command) throws Exception {
        List<String> all = new ArrayList<>(List.of("setpriv", "--reuid=65534", "--regid=65534", "--clear-groups"));
        all.addAll(List.of(command));
        Process process = new ProcessBuilder(all)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        assertThat(process.waitFor(30, TimeUnit.SECONDS)).isTrue();
        return process.exitValue();
    }

    /** Another user can be had where tests run as the superuser; elsewhere this is skipped, and said to be. */
    private static void assumeAnotherUser() {
        boolean isThere;
        try {
            isThere = asNobody("true") == 0;
        } catch (Exception e) {
            isThere = false;
        }
        assumeTrue(isThere, "needs the superuser and setpriv, to act as another user");
    }

    @Test
    void anotherUserNeitherReadsTheDatabaseNorKeepsItsOwnerOut() throws Exception {
        assumeAnotherUser();
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        String file = folder.resolve("brume.mv.db").toString();

        assertThat(asNobody("test", "-x", home.toString())).isZero();
        assertThat(asNobody("cat", file)).isNotZero();
        assertThat(asNobody("ls", folder.toString())).isNotZero();
        assertThat(asNobody("flock", "-sn", file, "true")).isNotZero();
    }

    @Test
    void anotherUserIsHungUpOnBeforeAnythingIsSaid() throws Exception {
        assumeAnotherUser();
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, Role.HOST)) {
            one(database);
            String knock = "exec 3<>/dev/tcp/127.0.0.1/" + endpointsPort()
                    + "; printf 'brume 1\\n%032d' 0 >&3; [ -z \"$(head -c1 <&3)\" ]";
            assertThat(asNobody("bash", "-c", knock)).as("nothing comes back").isZero();
            one(database);
        }
    }

    // Whoever listens where the owner used to.

    /** Listens at a port, remembers what comes, and answers with what it is given. */
    private static final class Impostor implements AutoCloseable {
        private final ServerSocket listener = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        private final BlockingQueue<byte[]> heard = new LinkedBlockingQueue<>();

        Impostor(byte[] answer) throws IOException {
            Thread thread = new Thread(() -> listen(answer));
            thread.setDaemon(true);
            thread.start();
        }

        private void listen(byte[] answer) {
            while (!listener.isClosed()) {
                try (Socket victim = listener.accept()) {
                    victim.getOutputStream().write(answer);
                    heard.add(victim.getInputStream().readAllBytes());
                } catch (IOException e) {
                    heard.add(new byte[0]);
                }
            }
        }

        void pretendIn(Path folder) throws IOException {
            Files.writeString(folder.resolve("endpoint"), listener.getLocalPort() + "\n00\n");
        }

        @Override
        public void close() throws IOException {
            listener.close();
        }
    }

    @Test
    void afterTheOwnersDeathNobodyAsksWhoeverListensAtItsPort() throws Exception {
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        try (Impostor impostor = new Impostor(new byte[0])) {
            impostor.pretendIn(folder);
            try (EmbeddedDatabase heir = EmbeddedDatabase.open(folder, Role.HOST)) {
                assertThat(one(heir)).isEqualTo(1);
                assertThat(endpointsPort()).isNotEqualTo(impostor.listener.getLocalPort());
            }
            assertThat(impostor.heard).isEmpty();
        }
    }

    @Test
    void anImpostorHearsNeitherLoginNorKeyAndIsNotBelieved() throws Exception {
        EmbeddedDatabase.open(folder, Role.HOST).opened().close();
        try (FileChannel file = FileChannel.open(folder.resolve("brume.mv.db"), StandardOpenOption.WRITE);
                FileLock held = file.lock();
                Impostor impostor = new Impostor(new byte[96])) {
            assertThat(held.isValid()).isTrue();
            impostor.pretendIn(folder);

            Result jobs = BrumeProcess.run(home, "jobs", "--data", "data");

            assertThat(jobs.exitCode()).isEqualTo(3);
            assertThat(jobs.err()).contains("held by another process that lets nobody else in");
            assertThat(impostor.heard)
                    .isNotEmpty()
                    .allSatisfy(said -> assertThat(said.length).isLessThanOrEqualTo(GREETING_AND_WORD));
        }
    }

    // Visitors.

    @Test
    void whoDoesNotKnowTheSecretIsNotLetInWhateverTheyAnnounce() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, Role.HOST)) {
            one(database);
            List<Socket> halfOpen = new ArrayList<>();
            for (int i = 0; i < 200; i++) {
                Socket socket = new Socket(InetAddress.getLoopbackAddress(), endpointsPort());
                halfOpen.add(socket);
                announce(socket, i);
            }
            assertThat(one(database)).isEqualTo(1);
            Result jobs = BrumeProcess.run(home, "jobs", "--data", "data");
            assertThat(jobs.err()).as("it was let in").contains("there are no tables");
            for (Socket socket : halfOpen) {
                assertThat(everythingSaid(socket)).hasSizeLessThanOrEqualTo(64);
                socket.close();
            }
        }
    }

    /** Some greet and guess; some speak as H2's own client does, of a text of two thousand million characters. */
    private static void announce(Socket socket, int which) throws IOException {
        ByteBuffer words = ByteBuffer.allocate(128);
        if (which % 2 == 0) {
            words.put("brume 1\n".getBytes(StandardCharsets.US_ASCII)).put(new byte[64]);
        } else {
            words.putInt(17).putInt(20).putInt(Integer.MAX_VALUE);
        }
        try {
            OutputStream out = socket.getOutputStream();
            out.write(words.array(), 0, words.position());
        } catch (IOException e) {
            assertThat(e).as("it was hung up on").isNotNull();
        }
    }

    private static byte[] everythingSaid(Socket socket) {
        try (InputStream in = socket.getInputStream()) {
            return in.readAllBytes();
        } catch (IOException reset) {
            return new byte[0];
        }
    }

    @Test
    void theDatabasesOwnPortIsNowhere() throws Exception {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, Role.HOST)) {
            one(database);
            String key = Files.readAllLines(folder.resolve("endpoint")).get(1);
            String direct = "jdbc:h2:tcp://127.0.0.1:" + endpointsPort() + "/" + key;
            String secret = Files.readString(folder.resolve("secret"));

            assertThatThrownBy(() -> java.sql.DriverManager.getConnection(direct, "brume", secret))
                    .isInstanceOf(java.sql.SQLException.class);
        }
    }
}
