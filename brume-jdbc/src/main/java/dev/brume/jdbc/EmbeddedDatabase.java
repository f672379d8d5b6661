package dev.brume.jdbc;

import dev.brume.port.StoreException;
import dev.brume.port.StoreException.Trouble;
import java.io.IOException;
import java.io.PrintWriter;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.nio.file.AtomicMoveNotSupportedException;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.sql.Statement;
import java.time.Duration;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.Properties;
import java.util.concurrent.locks.LockSupport;
import javax.sql.DataSource;
import org.h2.engine.SysProperties;
import org.h2.tools.Server;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * An H2 database in a folder, shared by the processes of one machine.
 *
 * <p>The first process to open it owns it. If it is a host, it also serves the others, on a port of the loopback
 * address that they find in the folder, behind a secret that only the owner of the files can read. When
 * the owner ends, in whatever way, the next to connect takes its place; a file left behind by a dead one
 * is noticed by its port being closed. A commit is on disk when it returns, short of a power cut. Safe
 * for use by many threads.
 */
public final class EmbeddedDatabase implements DataSource, AutoCloseable {
    private static final String NAME = "brume";
    private static final byte[] LOOPBACK = {127, 0, 0, 1};
    private static final int KNOCK_MILLIS = 1000;
    private static final Duration PATIENCE = Duration.ofSeconds(10);
    private static final int ALREADY_OPEN = 90020;
    private static final int BEING_CLOSED = 90135;

    /** The SQL state of a connection that a server refuses. */
    private static final String REFUSED = "08004";

    private static final Logger LOG = LoggerFactory.getLogger(EmbeddedDatabase.class);
    private static final String BIND_ADDRESS = "h2.bindAddress";
    private static final String HERE = "127.0.0.1";

    static {
        // Read once by H2 when its classes load; its server must not be reachable from other machines.
        System.setProperty(BIND_ADDRESS, HERE);
    }

    /** More than the engine has, so that none is read twice on a connection. */
    private static final int STATEMENTS = 128;

    private final Path folder;
    private final Role role;
    private final String secret;
    private final NumberFile numbers;
    private boolean owner;
    private boolean closed;
    private @Nullable Server server;
    private @Nullable SteadyCommits commits;

    /** What a process means to do with the database. */
    public enum Role {
        /** Stays, and serves others if it owns the database. */
        HOST,
        /** Has a look and leaves. */
        VISITOR
    }

    private EmbeddedDatabase(Path folder, Role role, String secret, NumberFile numbers) {
        this.folder = folder;
        this.role = role;
        this.secret = secret;
        this.numbers = numbers;
    }

    /**
     * Opens the database of a folder, creating both if they are not there.
     *
     * @throws StoreException if the folder cannot be used
     */
    public static EmbeddedDatabase open(Path folder, Role role) {
        Path absolute = folder.toAbsolutePath().normalize();
        try {
            Files.createDirectories(absolute);
            return new EmbeddedDatabase(
                    absolute, role, secret(absolute.resolve("secret")), numbers(absolute.resolve("numbers")));
        } catch (IOException e) {
            throw new StoreException(
                    Trouble.NOT_WRITABLE, "cannot keep a database in folder " + absolute + ": " + reason(e), e);
        }
    }

    /**
     * Takes its place at once, as the owner or the owner's guest; otherwise the first connection does.
     *
     * <p>For those who connect through a pool that waits for less than opening a large file, or one whose
     * owner died, may take.
     *
     * @throws StoreException if the database cannot be opened
     */
    public EmbeddedDatabase opened() {
        try (Connection first = getConnection()) {
            LOG.debug("{} is open: {}", description(), first);
            return this;
        } catch (SQLException e) {
            throw SqlErrors.wrap(description(), e);
        }
    }

    /** {@return whether a folder holds such a database} */
    public static boolean isIn(Path folder) {
        return Files.exists(folder.resolve(NAME + ".mv.db"));
    }

    private static String reason(IOException e) {
        if (e instanceof java.nio.file.AccessDeniedException) {
            return "no permission to write there";
        }
        return e instanceof java.nio.file.FileAlreadyExistsException
                ? "it is a file, not a folder"
                : String.valueOf(e.getMessage());
    }

    private static String secret(Path file) throws IOException {
        if (!Files.exists(file)) {
            writeForOwnerOnly(file, bytes(randomText()), /* replace= */ false);
        }
        return Files.readString(file).strip();
    }

    private static NumberFile numbers(Path file) throws IOException {
        if (!Files.exists(file)) {
            writeForOwnerOnly(file, NumberFile.empty(), /* replace= */ false);
        }
        return NumberFile.open(file);
    }

    /** The file that numbers of runs and fences come from. */
    NumberFile numbers() {
        return numbers;
    }

    private static byte[] bytes(String text) {
        return text.getBytes(StandardCharsets.US_ASCII);
    }

    private static String randomText() {
        byte[] bytes = new byte[16];
        new SecureRandom().nextBytes(bytes);
        return HexFormat.of().formatHex(bytes);
    }

    private static void writeForOwnerOnly(Path file, byte[] content, boolean replace) throws IOException {
        Path draft = FileSystems.getDefault().supportedFileAttributeViews().contains("posix")
                ? Files.createTempFile(
                        file.getParent(),
                        ".draft",
                        "",
                        PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")))
                : Files.createTempFile(file.getParent(), ".draft", "");
        try {
            Files.write(draft, content);
            if (replace) {
                move(draft, file);
            } else {
                Files.createLink(file, draft);
            }
        } catch (java.nio.file.FileAlreadyExistsException raced) {
            // Another process was first; its text counts.
            return;
        } finally {
            Files.deleteIfExists(draft);
        }
    }

    private static void move(Path from, Path to) throws IOException {
        try {
            Files.move(from, to, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (AtomicMoveNotSupportedException e) {
            Files.move(from, to, StandardCopyOption.REPLACE_EXISTING);
        }
    }

    @Override
    public Connection getConnection() throws SQLException {
        return SharedConnection.around(connection());
    }

    private synchronized Connection connection() throws SQLException {
        if (closed) {
            throw new SQLException("the database in " + folder + " was closed", "08003");
        }
        if (owner) {
            return DriverManager.getConnection(ownUrl(), login());
        }
        long until = System.nanoTime() + PATIENCE.toNanos();
        while (true) {
            Optional<Connection> connection = connect();
            if (connection.isPresent()) {
                return connection.get();
            }
            if (System.nanoTime() - until >= 0) {
                throw new SQLException(
                        "the database in " + folder
                                + " is held by another process that lets nobody else in (its log says why);"
                                + " stop it, or use a database server",
                        "08001");
            }
            LockSupport.parkNanos(Duration.ofMillis(50).toNanos());
        }
    }

    /** Tries to visit the owner, then to become it; empty if someone else is about to. */
    private Optional<Connection> connect() throws SQLException {
        Optional<Connection> visit = visit();
        return visit.isPresent() ? visit : own();
    }

    private Optional<Connection> visit() throws SQLException {
        Path endpoint = folder.resolve("endpoint");
        try {
            List<String> lines = Files.readAllLines(endpoint);
            if (lines.size() < 2 || !isListening(lines.get(0))) {
                return Optional.empty();
            }
            String url = "jdbc:h2:tcp://127.0.0.1:" + lines.get(0) + "/" + lines.get(1) + ";WRITE_DELAY=0";
            return Optional.of(DriverManager.getConnection(url, login()));
        } catch (java.nio.file.NoSuchFileException absent) {
            return Optional.empty();
        } catch (IOException e) {
            throw new SQLException("cannot read " + endpoint + ": " + reason(e), "08001", e);
        } catch (SQLException gone) {
            // Nobody listens there, or somebody else does: left behind by an owner that is dead.
            return Optional.empty();
        }
    }

    /** Asked before H2 is, which knocks for two seconds at a port that nobody listens on. */
    private static boolean isListening(String port) {
        try (Socket socket = new Socket()) {
            socket.connect(
                    new InetSocketAddress(InetAddress.getByAddress(LOOPBACK), Integer.parseInt(port)), KNOCK_MILLIS);
            return true;
        } catch (IOException | IllegalArgumentException nobody) {
            return false;
        }
    }

    private Optional<Connection> own() throws SQLException {
        H2Version version = H2Version.ofThisProcess();
        if (version.verdict() == H2Version.Verdict.LOSES) {
            throw new SQLException(
                    "the database in " + folder + " is not opened: " + version.words() + "; " + H2Version.wayOut(),
                    REFUSED);
        }
        Connection connection;
        try {
            connection = DriverManager.getConnection(ownUrl(), login());
        } catch (SQLException e) {
            if (e.getErrorCode() == ALREADY_OPEN
                    || e.getErrorCode() == BEING_CLOSED
                    || String.valueOf(e.getMessage()).contains("locked")) {
                return Optional.empty();
            }
            throw e;
        }
        owner = true;
        numbers.owned();
        commits = new SteadyCommits(this::connection);
        tellOfEarlierVersion(connection);
        if (role == Role.HOST) {
            serve();
        }
        return Optional.of(connection);
    }

    /** H2 reads its property once; where the application used H2 before, with another, its server would listen everywhere. */
    private static boolean listensHereOnly() {
        try {
            String address = SysProperties.BIND_ADDRESS;
            return address != null
                    && !address.isEmpty()
                    && InetAddress.getByName(address).isLoopbackAddress();
        } catch (UnknownHostException e) {
            return false;
        }
    }

    /** Once, as long as this file has given out no numbers. */
    private void tellOfEarlierVersion(Connection connection) throws SQLException {
        if (!numbers.isUnused()) {
            return;
        }
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "select setting_value from information_schema.settings where setting_name = 'CREATE_BUILD'")) {
            if (rows.next()) {
                H2Version.losing(rows.getString(1))
                        .ifPresent(before -> LOG.warn(
                                "the database in {} was made by H2 {}, which may have lost its last commits whenever its process"
                                        + " was killed; from now on H2 {} writes it",
                                folder,
                                before.number(),
                                H2Version.ofThisProcess().number()));
            }
        }
    }

    private void serve() throws SQLException {
        H2Version version = H2Version.ofThisProcess();
        if (version.verdict() != H2Version.Verdict.KEEPS) {
            LOG.warn(
                    "the database in {} is not shared with other processes: {}; {}",
                    folder,
                    version.words(),
                    H2Version.wayOut());
            return;
        }
        if (!listensHereOnly()) {
            LOG.warn(
                    "the database in {} is not shared with other processes: this process used H2 before, and its server"
                            + " would listen on every network; start with -D{}={} to share it",
                    folder,
                    BIND_ADDRESS,
                    HERE);
            return;
        }
        String key = randomText();
        server = Server.createTcpServer("-tcpPort", "0", "-tcpDaemon", "-key", key, path())
                .start();
        try {
            writeForOwnerOnly(
                    folder.resolve("endpoint"), bytes(server.getPort() + "\n" + key + "\n"), /* replace= */ true);
        } catch (IOException e) {
            throw new SQLException("cannot write " + folder.resolve("endpoint") + ": " + reason(e), "08001", e);
        }
    }

    /** By H2's asynchronous files: with its plain ones, a thread that is interrupted while it writes closes the file to the whole process. */
    private String path() {
        return "async:" + folder.resolve(NAME);
    }

    private String ownUrl() {
        return "jdbc:h2:" + path()
                + ";WRITE_DELAY=0;DB_CLOSE_DELAY=-1;DB_CLOSE_ON_EXIT=FALSE;TRACE_LEVEL_FILE=0;QUERY_CACHE_SIZE="
                + STATEMENTS;
    }

    private Properties login() {
        Properties login = new Properties();
        login.setProperty("user", NAME);
        login.setProperty("password", secret);
        return login;
    }

    /** {@return the folder, for messages} */
    public String description() {
        return "the database in " + folder;
    }

    /** Ends the sharing; if this process owns the database, shuts it down. */
    @Override
    public synchronized void close() {
        if (closed) {
            return;
        }
        closed = true;
        if (commits != null) {
            commits.close();
        }
        if (server != null) {
            server.stop();
        }
        if (owner) {
            try {
                if (server != null) {
                    Files.deleteIfExists(folder.resolve("endpoint"));
                }
                try (Connection connection = DriverManager.getConnection(ownUrl(), login());
                        var statement = connection.createStatement()) {
                    statement.execute("shutdown");
                }
            } catch (SQLException | IOException e) {
                LoggerFactory.getLogger(EmbeddedDatabase.class)
                        .warn("{} was not shut down cleanly: {}", description(), e.getMessage());
            }
        }
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        throw new SQLFeatureNotSupportedException("the login is the database's own");
    }

    @Override
    public @Nullable PrintWriter getLogWriter() {
        return null;
    }

    @Override
    public void setLogWriter(PrintWriter out) {
        // It writes no log.
    }

    @Override
    public void setLoginTimeout(int seconds) throws SQLException {
        throw new SQLFeatureNotSupportedException("there is no login timeout");
    }

    @Override
    public int getLoginTimeout() {
        return 0;
    }

    @Override
    public java.util.logging.Logger getParentLogger() throws SQLFeatureNotSupportedException {
        throw new SQLFeatureNotSupportedException("it does not use java.util.logging");
    }

    @Override
    public <T> T unwrap(Class<T> type) throws SQLException {
        if (!isWrapperFor(type)) {
            throw new SQLException("wraps no " + type.getName());
        }
        return type.cast(this);
    }

    @Override
    public boolean isWrapperFor(Class<?> type) {
        return type.isInstance(this);
    }
}
