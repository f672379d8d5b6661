package dev.brume.jdbc;

import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLFeatureNotSupportedException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Properties;
import java.util.concurrent.locks.LockSupport;
import javax.sql.DataSource;
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
 *
 * @since 0.1.0
 */
public final class EmbeddedDatabase implements DataSource, AutoCloseable {
    private static final String NAME = "brume";
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
    private final DatabaseFolder files;
    private final Role role;
    private final String secret;
    private final NumberFile numbers;
    private boolean owner;
    private boolean closed;
    private @Nullable SharedServer server;
    private @Nullable Passage passage;
    private @Nullable SteadyCommits commits;

    /** Compacting the file as it closes may take seconds; a host does so too, and has the time. */
    private static final String LEAVES_AT_ONCE = ";MAX_COMPACT_TIME=0";

    /** The roles of a process towards the database. */
    public enum Role {
        /** Stays, and serves others if it owns the database. */
        HOST,
        /** Has a look and leaves. */
        VISITOR
    }

    private EmbeddedDatabase(Path folder, DatabaseFolder files, Role role) throws IOException {
        this.folder = folder;
        this.files = files;
        this.role = role;
        this.secret = files.secret();
        this.numbers = files.numbers();
    }

    /**
     * Opens the database of a folder, creating both if they are not there.
     *
     * @throws StoreException if the folder cannot be used
     */
    public static EmbeddedDatabase open(Path folder, Role role) {
        Path absolute = folder.toAbsolutePath().normalize();
        try {
            DatabaseFolder files = DatabaseFolder.prepare(absolute);
            return new EmbeddedDatabase(absolute, files, role);
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

    /**
     * Loads what an embedded database takes, so that the first opens sooner. To be called while something else is waited for; changes nothing, and
     * need not be called.
     */
    public static void warmUp() {
        try (Connection passing = DriverManager.getConnection("jdbc:h2:mem:")) {
            LOG.trace("loaded ahead: {}", passing);
        } catch (SQLException e) {
            LOG.debug("what an embedded database takes was not loaded ahead", e);
        }
    }

    /** {@return whether a folder holds such a database} */
    public static boolean isIn(Path folder) {
        return DatabaseFolder.isIn(folder);
    }

    private static String reason(IOException e) {
        if (e instanceof java.nio.file.AccessDeniedException) {
            return "no permission to write there";
        }
        return e instanceof java.nio.file.FileAlreadyExistsException
                ? "it is a file, not a folder"
                : String.valueOf(e.getMessage());
    }

    /** The file that numbers of runs and fences come from. */
    NumberFile numbers() {
        return numbers;
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

    /**
     * Tries to become the owner if nobody is, else to visit whoever is; empty if someone else is about to. Who the file says is at its port is
     * asked only while somebody holds the file: after the owner's death, anybody may listen there.
     */
    private Optional<Connection> connect() throws SQLException {
        try {
            if (files.isOwnedHere()) {
                Optional<Connection> visit = visit();
                return visit.isPresent() ? visit : own();
            }
            return files.isHeld() ? visit() : own();
        } catch (IOException e) {
            throw new SQLException("cannot use " + files.database() + ".mv.db: " + reason(e), "08001", e);
        }
    }

    private Optional<Connection> visit() throws SQLException {
        Path endpoint = files.endpoint();
        try {
            List<String> lines = Files.readAllLines(endpoint);
            if (lines.size() < 2) {
                return Optional.empty();
            }
            if (passage == null) {
                passage = new Passage(secret);
            }
            int port = passage.to(Integer.parseInt(lines.get(0)));
            String url = "jdbc:h2:tcp://127.0.0.1:" + port + "/" + lines.get(1) + ";WRITE_DELAY=0";
            return Optional.of(DriverManager.getConnection(url, login()));
        } catch (java.nio.file.NoSuchFileException absent) {
            return Optional.empty();
        } catch (IOException e) {
            throw new SQLException("cannot read " + endpoint + ": " + reason(e), "08001", e);
        } catch (SQLException | NumberFormatException gone) {
            // Nobody listens there, or somebody who does not know the secret: left behind by an owner that is dead.
            return Optional.empty();
        }
    }

    private Optional<Connection> own() throws SQLException, IOException {
        H2Version version = H2Version.ofThisProcess();
        if (version.verdict() == H2Version.Verdict.LOSES) {
            throw new SQLException(
                    "the database in " + folder + " is not opened: " + version.words() + "; " + H2Version.wayOut(),
                    REFUSED);
        }
        Connection connection;
        try {
            files.makeDatabase();
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
        files.owned();
        numbers.owned();
        commits = new SteadyCommits(this::connection);
        tellOfEarlierVersion(connection);
        if (role == Role.HOST) {
            serve();
        }
        return Optional.of(connection);
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
        String key = DatabaseFolder.randomText();
        try {
            server = SharedServer.start(secret, key, path());
            files.writeEndpoint(server.port() + "\n" + key + "\n");
        } catch (ReflectiveOperationException e) {
            LOG.warn(
                    "the database in {} is not shared with other processes: the server of H2 {} is built in another way ({})",
                    folder,
                    version.number(),
                    e.toString());
        } catch (IOException e) {
            throw new SQLException("the database in " + folder + " cannot be shared: " + reason(e), "08001", e);
        }
    }

    /** By H2's asynchronous files: with its plain ones, a thread that is interrupted while it writes closes the file to the whole process. */
    private String path() {
        return "async:" + files.database();
    }

    private String ownUrl() {
        return "jdbc:h2:" + path()
                + ";WRITE_DELAY=0;DB_CLOSE_DELAY=-1;DB_CLOSE_ON_EXIT=FALSE;TRACE_LEVEL_FILE=0;QUERY_CACHE_SIZE="
                + STATEMENTS
                + (role == Role.HOST ? "" : LEAVES_AT_ONCE);
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
            server.close();
        }
        if (passage != null) {
            passage.close();
        }
        if (owner) {
            try {
                if (server != null) {
                    Files.deleteIfExists(files.endpoint());
                }
                try (Connection connection = DriverManager.getConnection(ownUrl(), login());
                        var statement = connection.createStatement()) {
                    statement.execute("shutdown");
                }
            } catch (SQLException | IOException e) {
                LOG.warn("{} was not shut down cleanly: {}", description(), e.getMessage());
            } finally {
                files.left();
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
