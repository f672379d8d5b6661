package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Run;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.concurrent.CountDownLatch;

/** A guarded transaction: what the work books and that its run succeeded are one commit, however often it is tried. */
public final class HarbourDues {
    private static final JobName DUES = JobName.parse("harbour-dues");

    private HarbourDues() {}

    /** Books dues once, although the first attempt fails after it has written. */
    public static void main(String[] args) throws SQLException, InterruptedException {
        Path folder = Path.of(args.length > 0 ? args[0] : "dues-data");
        CountDownLatch booked = new CountDownLatch(1);
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST);
                Brume brume =
                        Brume.on(JdbcStore.on(database)).instance("office").build()) {
            try (Connection connection = database.getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("create table if not exists dues (run bigint, berth int)");
            }
            brume.define(Job.named(DUES).ifFailed(IfFailed.attempts(3, Duration.ofMillis(200))), run -> {
                run.commit(connection -> book(connection, run));
                booked.countDown();
            });
            brume.start();
            brume.orders("office", "").runNow(DUES);
            booked.await();
            try (Connection connection = database.getConnection();
                    Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("select count(*) from dues")) {
                rows.next();
                System.out.println("booked: " + rows.getInt(1));
            }
        }
    }

    private static void book(Connection connection, Run run) throws SQLException {
        try (PreparedStatement insert = connection.prepareStatement("insert into dues values (?, ?)")) {
            insert.setLong(1, run.id());
            insert.setInt(2, 4);
            insert.executeUpdate();
        }
        if (run.attempt() == 1) {
            throw new IllegalStateException("the printer is out of paper");
        }
    }
}
