package dev.brume.jdbc;

import dev.brume.spi.FeedNote;
import dev.brume.spi.FeedSteps;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;

/** The steps of the feed in SQL. */
final class JdbcFeed implements FeedSteps {
    private final Statements sql;
    private final Supplier<Instant> now;
    private final Feeding feeding;

    JdbcFeed(Statements sql, Supplier<Instant> now, Feeding feeding) {
        this.sql = sql;
        this.now = now;
        this.feeding = feeding;
    }

    private FeedHead head(String lock) {
        return FeedHead.read(sql, lock);
    }

    @Override
    public void listen(Duration forSoLong) {
        FeedHead head = head(" for update");
        Instant at = now.get();
        Instant until = at.plus(forSoLong);
        if (!head.isListened(at)) {
            breakOff(head);
            sql.update("update brume_feed_head set settles_at = ? where id = 1", at.plus(feeding.settling()));
        }
        if (head.isToBeListenedAgain(at, forSoLong)) {
            sql.update("update brume_feed_head set listened_until = ? where id = 1", until);
        }
        feeding.begins();
    }

    /** Takes a number that nothing gets, so that places before it are known to be too old. */
    private void breakOff(FeedHead head) {
        sql.update(
                "update brume_feed_head set number = ?, kept_from = ? where id = 1",
                head.number() + 1,
                head.number() + 2);
    }

    @Override
    public void stopListening() {
        sql.update("update brume_feed_head set listened_until = null where id = 1");
    }

    @Override
    public boolean isListened() {
        FeedHead head = head("");
        if (head.listenedUntil().isEmpty()) {
            return false;
        }
        boolean listened = head.isListened(now.get());
        if (!listened) {
            sql.update(
                    "update brume_feed_head set listened_until = null where id = 1 and listened_until = ?",
                    head.listenedUntil());
        }
        return listened;
    }

    /** Adds what a transaction has changed. */
    void add(List<FeedNote> notes) {
        sql.update("insert into brume_feed (fed_at, body) values (?, ?)", now.get(), Json.feed(notes));
    }

    @Override
    public int number(int limit) {
        FeedHead head = head(" for update");
        List<Long> committed = sql.query(
                "select id from brume_feed where number is null order by id limit ?", row -> row.number(1), limit);
        long[] number = {head.number()};
        sql.batch(
                "update brume_feed set number = ? where id = ?",
                committed,
                (parameters, id) -> parameters.all(++number[0], id));
        boolean settled = head.settlesAt().isPresent()
                && committed.size() < limit
                && !now.get().isBefore(head.settlesAt().get());
        if (settled) {
            breakOff(new FeedHead(number[0], head.keptFrom(), head.listenedUntil(), head.settlesAt()));
            sql.update("update brume_feed_head set settles_at = null where id = 1");
        } else if (!committed.isEmpty()) {
            sql.update("update brume_feed_head set number = ? where id = 1", number[0]);
        }
        return committed.size();
    }

    @Override
    public int forget(Instant fedBefore, int limit) {
        FeedHead head = head(" for update");
        record Old(long id, Optional<Long> number, Instant at) {}
        List<Old> old = sql
                .query(
                        "select id, number, fed_at from brume_feed order by id limit ?",
                        row -> {
                            var number = row.optionalNumber("number");
                            return new Old(
                                    row.number("id"),
                                    number.isPresent() ? Optional.of(number.getAsLong()) : Optional.empty(),
                                    row.instant("fed_at"));
                        },
                        limit)
                .stream()
                .filter(row -> row.at.isBefore(fedBefore))
                .filter(row ->
                        row.number.filter(number -> number == head.number()).isEmpty())
                .toList();
        sql.batch("delete from brume_feed where id = ?", old, (parameters, row) -> parameters.add(row.id));
        old.stream()
                .flatMap(row -> row.number.stream())
                .max(Long::compare)
                .filter(number -> number >= head.keptFrom())
                .ifPresent(number -> sql.update("update brume_feed_head set kept_from = ? where id = 1", number + 1));
        return old.size();
    }
}
