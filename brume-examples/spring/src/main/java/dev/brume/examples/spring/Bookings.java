package dev.brume.examples.spring;

import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.PayloadType;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Bookings of berths. Each has a reminder of its own, which is ordered, moved and dropped in the booking's transaction. */
@Service
class Bookings {
    private static final JobName REMINDER = JobName.parse("berth-reminder");
    private static final Duration AHEAD = Duration.ofDays(1);

    private final JdbcTemplate jdbc;
    private final OneOffs orders;

    Bookings(JdbcTemplate jdbc, OneOffs orders) {
        this.jdbc = jdbc;
        this.orders = orders;
    }

    /** What a certificate is written of. */
    record Certificate(long booking, String ship, Instant arrives) {}

    @Transactional
    void book(long id, String ship, Instant arrives) {
        jdbc.update(
                "insert into booking (id, ship, arrives) values (?, ?, ?)"
                        + " on conflict (id) do update set ship = excluded.ship, arrives = excluded.arrives",
                id,
                ship,
                arrives.atOffset(ZoneOffset.UTC));
        orders.addOrMove(
                OneOff.of(REMINDER, "booking-" + id).at(arrives.minus(AHEAD)).payload(Long.toString(id)));
        if (ship.isBlank()) {
            throw new IllegalArgumentException("a booking needs a ship");
        }
    }

    @Transactional
    void cancel(long id) {
        jdbc.update("delete from booking where id = ?", id);
        orders.drop(REMINDER, "booking-" + id);
    }

    /** {@return false if it was asked for before} */
    boolean askForCertificate(long id) {
        Certificate asked = jdbc
                .query(
                        "select ship, arrives from booking where id = ?",
                        (row, number) -> new Certificate(
                                id,
                                row.getString("ship"),
                                row.getObject("arrives", OffsetDateTime.class).toInstant()),
                        id)
                .stream()
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("there is no booking " + id));
        PayloadType<Certificate> json = PayloadType.json(Certificate.class);
        String key = "booking-" + id;
        return orders.add(OneOff.of("mooring-certificate", key)
                        .payload(json.text(asked))
                        .once(key))
                .changed();
    }
}
