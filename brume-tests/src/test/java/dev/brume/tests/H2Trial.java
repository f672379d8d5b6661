package dev.brume.tests;

import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.NewJob;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcConnectionPool;

/**
 * Tries out the version of H2 that it is started with, and says what it found, a line each. The file as it stands after a commit is what a
 * process killed at that moment leaves, so it is copied after every single commit, and the copy must open with that commit in it.
 */
final class H2Trial {
    private static final int COMMITS = 60;
    private static final int JOBS = 50;

    private final Path folder;

    private H2Trial(Path folder) {
        this.folder = folder;
    }

    /** Arguments: a folder; it leaves a database of an application's own in {@code left} and halts without closing it. */
    public static void main(String[] args) throws Exception {
        H2Trial trial = new H2Trial(Path.of(args[0]));
        System.out.println("lost at first " + trial.lost("plain", /* openedCleanly= */ false));
        System.out.println("lost after a clean opening " + trial.lost("clean", /* openedCleanly= */ true));
        System.out.println("embedded " + trial.embedded());
        System.out.println("concerns " + trial.leave());
        System.out.flush();
        Runtime.getRuntime().halt(0);
    }

    /** Gaps are filled at once here, as they are in a file in use once they are older than a minute. */
    private long lost(String name, boolean openedCleanly) throws Exception {
        String url = "jdbc:h2:file:" + folder.resolve(name)
                + ";WRITE_DELAY=0;DB_CLOSE_DELAY=-1;DB_CLOSE_ON_EXIT=FALSE;TRACE_LEVEL_FILE=0;RETENTION_TIME=0";
        Connection connection = DriverManager.getConnection(url, "sa", "");
        Statement statement = connection.createStatement();
        statement.execute("create table counter (id integer primary key, n integer, text varchar)");
        statement.execute("insert into counter values (0, 0, '')");
        if (openedCleanly) {
            statement.execute("shutdown");
            connection = DriverManager.getConnection(url, "sa", "");
            statement = connection.createStatement();
        }
        connection.setAutoCommit(false);
        SplittableRandom random = new SplittableRandom(1);
        long lost = 0;
        for (int n = 1; n <= COMMITS; n++) {
            statement.execute("update counter set n = " + n + " where id = 0");
            statement.execute("merge into counter values (" + random.nextInt(1, 60) + ", " + n + ", '"
                    + "x".repeat(random.nextInt(2000)) + "')");
            statement.execute("delete from counter where id = " + random.nextInt(1, 60));
            connection.commit();
            lost += isIn(name, n) ? 0 : 1;
        }
        statement.execute("shutdown immediately");
        return lost;
    }

    private boolean isIn(String name, int commit) throws Exception {
        Path copy = folder.resolve("copy.mv.db");
        Files.copy(folder.resolve(name + ".mv.db"), copy);
        String url = "jdbc:h2:file:" + folder.resolve("copy") + ";TRACE_LEVEL_FILE=0";
        try (Connection connection = DriverManager.getConnection(url, "sa", "");
                Statement statement = connection.createStatement()) {
            boolean there;
            try (ResultSet row = statement.executeQuery("select n from counter where id = 0")) {
                there = row.next() && row.getInt(1) == commit;
            }
            // That it stays open is a setting that was copied with it.
            statement.execute("shutdown immediately");
            return there;
        } finally {
            Files.delete(copy);
        }
    }

    private String embedded() throws SQLException {
        try (EmbeddedDatabase database =
                EmbeddedDatabase.open(folder.resolve("embedded"), EmbeddedDatabase.Role.HOST)) {
            database.opened();
            return "opened";
        } catch (StoreException e) {
            return "refused: " + e.getMessage();
        }
    }

    private List<String> leave() throws Exception {
        Path left = Files.createDirectories(folder.resolve("left"));
        Files.writeString(left.resolve("secret"), "of the owner");
        DataSource own = JdbcConnectionPool.create("jdbc:h2:async:" + left.resolve("brume"), "brume", "of the owner");
        JdbcStore store = JdbcStore.on(own);
        store.prepare();
        for (int i = 0; i < JOBS; i++) {
            Job job = Job.named("job-" + i)
                    .every(Duration.ofHours(1))
                    .program("true")
                    .build();
            store.transact(tx -> tx.addJobs(List.of(NewJob.plain(job, "test", Instant.EPOCH, Optional.empty()))));
            store.transact(tx -> tx.take(1));
        }
        return store.concerns();
    }
}
