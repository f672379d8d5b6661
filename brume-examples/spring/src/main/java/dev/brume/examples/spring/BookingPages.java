package dev.brume.examples.spring;

import java.time.Instant;
import java.util.Map;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What ships ask of the office. */
@RestController
class BookingPages {
    private final Bookings bookings;
    private final JdbcTemplate jdbc;

    BookingPages(Bookings bookings, JdbcTemplate jdbc) {
        this.bookings = bookings;
        this.jdbc = jdbc;
    }

    record Berth(String ship, Instant arrives) {}

    @PutMapping("/bookings/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void book(@PathVariable("id") long id, @RequestBody Berth berth) {
        bookings.book(id, berth.ship(), berth.arrives());
    }

    @DeleteMapping("/bookings/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void cancel(@PathVariable("id") long id) {
        bookings.cancel(id);
    }

    /** Answers at once; the certificate is printed by whichever instance has time. */
    @PostMapping("/bookings/{id}/certificate")
    @ResponseStatus(HttpStatus.ACCEPTED)
    Map<String, Boolean> certificate(@PathVariable("id") long id) {
        return Map.of("new", bookings.askForCertificate(id));
    }

    @GetMapping("/figures")
    Map<String, Object> figures() {
        return jdbc.queryForMap(
                "select count(*) as bookings, coalesce(sum(reminded), 0) as reminded, count(certificate) as certificates,"
                        + " (select count(*) from due) as dues from booking");
    }

    @ExceptionHandler(IllegalArgumentException.class)
    @ResponseStatus(HttpStatus.BAD_REQUEST)
    Map<String, String> refused(IllegalArgumentException e) {
        return Map.of("error", e.getMessage());
    }
}
