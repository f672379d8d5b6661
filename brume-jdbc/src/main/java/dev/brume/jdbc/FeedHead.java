package dev.brume.jdbc;

import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/** What is kept in one row: up to where there are numbers, and from which on nothing is missing. */
record FeedHead(long number, long keptFrom, Optional<Instant> listenedUntil, Optional<Instant> settlesAt) {
    static FeedHead of(Row row) throws SQLException {
        return new FeedHead(
                row.number("number"),
                row.number("kept_from"),
                row.optionalInstant("listened_until"),
                row.optionalInstant("settles_at"));
    }

    /** {@return whether less than two thirds are left of the time for which somebody says that they listen} */
    boolean isToBeListenedAgain(Instant now, Duration forSoLong) {
        Instant least = now.plus(forSoLong.dividedBy(3).multipliedBy(2));
        return listenedUntil.filter(least::isBefore).isEmpty();
    }

    boolean isListened(Instant now) {
        return listenedUntil.filter(now::isBefore).isPresent();
    }

    static FeedHead read(Statements sql, String lock) {
        return sql.first("select * from brume_feed_head where id = 1" + lock, FeedHead::of)
                .orElseThrow();
    }
}
