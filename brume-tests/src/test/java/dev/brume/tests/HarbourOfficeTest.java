package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Configuration;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.examples.HarbourOffice;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

/** The sample application, on a PostgreSQL of its own. */
class HarbourOfficeTest {
    private static final JobName REMINDER = JobName.parse("berth-reminder");

    @Test
    void bookingsRemindersCertificatesAndDuesGoTogether() throws Exception {
        String place = Databases.freshName();
        try (HikariDataSource pool = Databases.postgres();
                Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("create schema " + place);
            try (HikariDataSource own = new HikariDataSource()) {
                own.setJdbcUrl(Databases.postgresUrl());
                own.setConnectionInitSql("set search_path to " + place);
                own.setMaximumPoolSize(8);
                run(own, place);
            }
        }
    }

    private static void run(HikariDataSource pool, String place) throws Exception {
        Instant later = Instant.now().plus(30, ChronoUnit.DAYS).truncatedTo(ChronoUnit.SECONDS);
        Configuration settings =
                Configuration.of(Map.of("brume.lease", "5s", "brume.schema", place, "brume.instance", "office"));
        try (HarbourOffice office = new HarbourOffice(pool, settings)) {
            office.book(17, "Petrel", later);
            office.book(18, "Tern", later);
            office.book(18, "Tern", later.plus(1, ChronoUnit.DAYS));
            office.book(19, "Gannet", later);
            office.cancel(19);
            assertThatThrownBy(() -> office.book(20, "x".repeat(51), later)).isInstanceOf(SQLException.class);
            assertThat(office.brume().history().oneOffs(OneOffFilter.first(10).of(REMINDER)))
                    .extracting(OneOffView::key, OneOffView::dueAt)
                    .containsExactly(tuple("booking-17", later.minus(1, ChronoUnit.DAYS)), tuple("booking-18", later));

            CountDownLatch ended = new CountDownLatch(3);
            office.brume().listen("test", EventFilter.of(Event.Kind.SUCCEEDED), event -> ended.countDown());
            office.start();
            office.book(17, "Petrel", Instant.now().plus(Duration.ofDays(1)));
            assertThat(office.requestCertificate(17)).isTrue();
            assertThat(office.requestCertificate(17)).isFalse();
            office.brume().orders("ines", "").runNow(JobName.parse("harbour-dues"));
            assertThat(ended.await(60, TimeUnit.SECONDS)).isTrue();
            assertThat(office.figures()).isEqualTo(Map.of("bookings", 2, "reminded", 1, "certificates", 1));
        }
        try (HarbourOffice next = new HarbourOffice(pool, settings)) {
            List<RunView> runs = next.brume().history().runs(RunFilter.newest(10));
            assertThat(runs)
                    .hasSize(3)
                    .allSatisfy(run -> assertThat(run.outcome()).contains(Outcome.SUCCEEDED));
        }
    }
}
