package dev.brume.examples.spring;

import dev.brume.Run;
import dev.brume.spring.CommitsWithRun;
import dev.brume.spring.Handles;
import java.time.Duration;
import java.time.ZoneOffset;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** What the office's jobs do; when they do it stands in {@code application.yaml}, or beside them. */
@Component
class HarbourJobs {
    private static final Logger LOG = LoggerFactory.getLogger(HarbourJobs.class);

    private final JdbcTemplate jdbc;
    private final Duration printing;

    HarbourJobs(JdbcTemplate jdbc, @Value("${harbour.printing}") Duration printing) {
        this.jdbc = jdbc;
        this.printing = printing;
    }

    /** The reminder's mark and the end of its run are one commit. */
    @Handles(
            value = "berth-reminder",
            waits = {"10s", "1m", "5m"})
    @CommitsWithRun
    void remind(String booking) {
        jdbc.update("update booking set reminded = reminded + 1 where id = ?", Long.valueOf(booking));
    }

    /** Ordered by a request, which does not wait for the printer. */
    @Handles(value = "mooring-certificate", waits = "10s", timeLimit = "1m")
    String certify(Run run, Bookings.Certificate asked) throws InterruptedException {
        LOG.info("printing the certificate of booking {}", asked.booking());
        Thread.sleep(printing.toMillis());
        jdbc.update("update booking set certificate = ? where id = ?", "run " + run.id(), asked.booking());
        LOG.info("printed the certificate of booking {}", asked.booking());
        return "moored: " + asked.ship() + ", since " + asked.arrives();
    }

    /** Each night once, with the run or not at all. */
    @Handles("harbour-dues")
    @CommitsWithRun
    void bookDues(Run run) {
        jdbc.update(
                "insert into due (planned, bookings) select ?, count(*) from booking",
                run.planned().atOffset(ZoneOffset.UTC));
    }

    @Handles("lamp-inspection")
    String inspect(Run run) {
        return "all lamps are lit, as planned for " + run.plannedLocal();
    }
}
