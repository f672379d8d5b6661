package dev.brume.examples;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Configuration;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Run;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.Map;
import javax.sql.DataSource;

/**
 * An application on PostgreSQL and a pool, as plain Java: berths are booked, each booking has a reminder of its own, a request has work done in the
 * background, and dues are booked each night in one transaction with the run.
 */
public final class HarbourOffice implements AutoCloseable {
    private static final JobName REMINDER = JobName.parse("berth-reminder");
    private static final JobName CERTIFICATE = JobName.parse("mooring-certificate");
    private static final JobName DUES = JobName.parse("harbour-dues");
    private static final Duration AHEAD = Duration.ofDays(1);

    private final DataSource database;
    private final Brume brume;

    /**
     * Opens the office; it takes work once it is started.
     *
     * @param database the application's own pool
     * @param settings as {@code brume.lease=10s}
     */
    public HarbourOffice(DataSource database, Configuration settings) throws SQLException {
        this.database = database;
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "create table if not exists booking (id bigint primary key, ship varchar(50) not null,"
                            + " arrives timestamptz not null, reminded boolean not null default false, certificate varchar(50))");
            statement.execute("create table if not exists due (night date primary key, bookings integer not null)");
        }
        JdbcStore store = JdbcStore.builder(database).configure(settings).build();
        brume = Brume.on(store).configure(settings).build();
        brume.define(Job.named(REMINDER).ifFailed(IfFailed.attempts(5, Duration.ofMinutes(1))), this::remind);
        brume.define(Job.named(CERTIFICATE).ifFailed(IfFailed.attempts(3, Duration.ofSeconds(10))), this::certify);
        brume.define(Job.named(DUES).cron("30 2 * * *", "Atlantic/Azores"), this::bookDues);
    }

    /** Begins to take work. */
    public void start() {
        brume.start();
    }

    /** {@return the instance, to look at what it does and to give orders} */
    public Brume brume() {
        return brume;
    }

    /** Books a berth, or changes a booking; its reminder is part of the same transaction, and moves along. */
    public void book(long id, String ship, Instant arrives) throws SQLException {
        inOneTransaction(connection -> {
            try (PreparedStatement booking =
                    connection.prepareStatement("insert into booking (id, ship, arrives) values (?, ?, ?)"
                            + " on conflict (id) do update set ship = excluded.ship, arrives = excluded.arrives")) {
                booking.setLong(1, id);
                booking.setString(2, ship);
                booking.setObject(3, arrives.atOffset(ZoneOffset.UTC));
                booking.executeUpdate();
            }
            brume.oneOffs()
                    .within(connection)
                    .addOrMove(OneOff.of(REMINDER, "booking-" + id)
                            .at(arrives.minus(AHEAD))
                            .payload(Long.toString(id)));
        });
    }

    /** Cancels a booking; nobody is reminded of it. */
    public void cancel(long id) throws SQLException {
        inOneTransaction(connection -> {
            try (PreparedStatement booking = connection.prepareStatement("delete from booking where id = ?")) {
                booking.setLong(1, id);
                booking.executeUpdate();
            }
            brume.oneOffs().within(connection).drop(REMINDER, "booking-" + id);
        });
    }

    /**
     * Answers a request at once; the certificate is written in the background, by whichever instance has time.
     *
     * @return false if it was asked for before
     */
    public boolean requestCertificate(long id) {
        String key = "booking-" + id;
        OneOff order = OneOff.of(CERTIFICATE, key).payload(Long.toString(id)).once(key);
        return brume.oneOffs().add(order).changed();
    }

    private void remind(Run run) throws Exception {
        run.commit(connection -> mark(connection, run, "update booking set reminded = true where id = ?"));
    }

    private void certify(Run run) throws Exception {
        run.commit(connection ->
                mark(connection, run, "update booking set certificate = 'moored at ' || ship where id = ?"));
    }

    private static void mark(Connection connection, Run run, String update) throws SQLException {
        try (PreparedStatement booking = connection.prepareStatement(update)) {
            booking.setLong(1, Long.parseLong(run.payload().orElseThrow()));
            booking.executeUpdate();
        }
    }

    /** The dues and the end of the run commit together: not without each other, and not twice. */
    private void bookDues(Run run) throws Exception {
        run.commit(connection -> {
            try (PreparedStatement due =
                    connection.prepareStatement("insert into due (night, bookings) select ?, count(*) from booking")) {
                due.setObject(1, run.plannedLocal().toLocalDate());
                due.executeUpdate();
            }
        });
    }

    /** Work of the application's in one transaction of its own. */
    private interface Step {
        void on(Connection connection) throws SQLException;
    }

    private void inOneTransaction(Step step) throws SQLException {
        try (Connection connection = database.getConnection()) {
            connection.setAutoCommit(false);
            try {
                step.on(connection);
                connection.commit();
            } catch (SQLException | RuntimeException e) {
                connection.rollback();
                throw e;
            } finally {
                connection.setAutoCommit(true);
            }
        }
    }

    /** {@return how many bookings were reminded of, or have a certificate} */
    public Map<String, Integer> figures() throws SQLException {
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(
                        "select count(*), count(*) filter (where reminded), count(certificate) from booking")) {
            row.next();
            return Map.of("bookings", row.getInt(1), "reminded", row.getInt(2), "certificates", row.getInt(3));
        }
    }

    /** Takes nothing more, lets what runs end, and hands the rest to other instances. */
    @Override
    public void close() {
        brume.close();
    }

    /**
     * Runs until the process is told to end.
     *
     * @param args the JDBC URL of a PostgreSQL database
     */
    public static void main(String[] args) throws Exception {
        Configuration settings = Configuration.ofEnvironment()
                .orElse(Configuration.of(Map.of("brume.lease", "10s", "brume.stop-with-process", "true")));
        try (HikariDataSource pool = new HikariDataSource()) {
            pool.setJdbcUrl(args[0]);
            pool.setMaximumPoolSize(10);
            try (HarbourOffice office = new HarbourOffice(pool, settings)) {
                office.start();
                office.book(17, "Petrel", Instant.now().plus(AHEAD).plusSeconds(2));
                office.requestCertificate(17);
                office.brume.awaitStopped();
            }
        }
    }
}
