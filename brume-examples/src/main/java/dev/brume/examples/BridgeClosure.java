package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.history.OneOffFilter;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.concurrent.CountDownLatch;

/** A run ordered in the application's own transaction: it is owed if that commits, and never was if it rolls back. */
public final class BridgeClosure {
    private static final JobName OPEN_AGAIN = JobName.parse("open-bridge-again");

    private BridgeClosure() {}

    /** Closes two bridges, thinks better of one, and waits for the other to open again. */
    public static void main(String[] args) throws SQLException, InterruptedException {
        Path folder = Path.of(args.length > 0 ? args[0] : "bridge-data");
        CountDownLatch opened = new CountDownLatch(1);
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST);
                Brume brume =
                        Brume.on(JdbcStore.on(database)).instance("office").build()) {
            try (Connection connection = database.getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("create table if not exists closure (bridge varchar(20))");
            }
            brume.define(Job.named(OPEN_AGAIN), run -> {
                System.out.println("bridge open again: " + run.payload().orElseThrow());
                opened.countDown();
            });

            close(brume, database, "south", /* keep= */ true);
            close(brume, database, "north", /* keep= */ false);

            System.out.println("waiting: "
                    + brume.history()
                            .oneOffs(OneOffFilter.first(10).of(OPEN_AGAIN))
                            .size());
            brume.start();
            opened.await();
        }
    }

    private static void close(Brume brume, EmbeddedDatabase database, String bridge, boolean keep) throws SQLException {
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            try (Statement statement = connection.createStatement()) {
                statement.execute("insert into closure values ('" + bridge + "')");
            }
            brume.oneOffs()
                    .within(connection)
                    .add(OneOff.of(OPEN_AGAIN, "closure-" + bridge)
                            .in(Duration.ofSeconds(2))
                            .payload(bridge));
            if (keep) {
                connection.commit();
            } else {
                connection.rollback();
            }
        }
    }
}
