package dev.brume.memory;

import dev.brume.JobName;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.history.RunRow;
import dev.brume.spi.FeedNote;
import dev.brume.spi.FeedSteps;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;

/** The steps of the feed, on maps. */
final class MemoryFeed implements FeedSteps {
    private static final String HEAD = "head";

    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryFeed(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    /** Up to where there are numbers, from which on nothing is missing, and until when somebody listens. */
    record Head(long number, long keptFrom, Instant listenedUntil) {
        static final Head NONE = new Head(0, 1, Instant.MIN);
    }

    /** What a transaction has changed. */
    record Fed(Optional<Long> number, Instant at, List<FeedNote> notes) {}

    private Head head() {
        return tables.feedHead.getOrDefault(HEAD, Head.NONE);
    }

    private void head(long number, long keptFrom, Instant listenedUntil) {
        tables.put(tables.feedHead, HEAD, new Head(number, keptFrom, listenedUntil));
    }

    /** What began before has been committed: one transaction at a time is all there is. */
    @Override
    public void listen(Duration forSoLong) {
        Head head = head();
        Instant until = clock.get().plus(forSoLong);
        if (!isListened()) {
            head(head.number + 1, head.number + 2, until);
        } else if (needsCare(forSoLong)) {
            head(head.number, head.keptFrom, until);
        }
    }

    @Override
    public void stopListening() {
        Head head = head();
        head(head.number, head.keptFrom, Instant.MIN);
    }

    @Override
    public boolean isListened() {
        Head head = head();
        boolean listened = clock.get().isBefore(head.listenedUntil);
        if (!listened && !head.listenedUntil.equals(Instant.MIN)) {
            stopListening();
        }
        return listened;
    }

    void add(List<FeedNote> notes) {
        tables.put(tables.feed, tables.next("feed"), new Fed(Optional.empty(), clock.get(), notes));
    }

    @Override
    public int number(int limit) {
        Head head = head();
        List<Map.Entry<Long, Fed>> committed = tables.feed.entrySet().stream()
                .filter(entry -> entry.getValue().number.isEmpty())
                .limit(limit)
                .toList();
        long number = head.number;
        for (Map.Entry<Long, Fed> entry : committed) {
            Fed row = entry.getValue();
            tables.put(tables.feed, entry.getKey(), new Fed(Optional.of(++number), row.at, row.notes));
        }
        head(number, head.keptFrom, head.listenedUntil);
        return committed.size();
    }

    boolean needsCare(Duration listened) {
        Instant least = clock.get().plus(listened.dividedBy(3).multipliedBy(2));
        return !least.isBefore(head().listenedUntil)
                || tables.feed.values().stream().anyMatch(row -> row.number.isEmpty());
    }

    FeedPosition end() {
        return new FeedPosition(tables.epoch(), head().number + 1, 0);
    }

    FeedPage after(FeedPosition position, int limit) {
        Head head = head();
        boolean isGone = position.epoch() != tables.epoch()
                || position.number() < head.keptFrom
                || position.number() > head.number + 1;
        if (isGone) {
            return new FeedPage(/* reset= */ true, List.of(), end());
        }
        List<FeedEvent> events = new ArrayList<>();
        tables.feed.values().stream()
                .filter(row ->
                        row.number.filter(number -> number >= position.number()).isPresent())
                .limit(limit + (position.index() > 0 ? 1 : 0))
                .forEach(row -> addEvents(row, position, events));
        return new FeedPage(
                /* reset= */ false,
                events,
                events.isEmpty() ? position : events.get(events.size() - 1).position());
    }

    private void addEvents(Fed row, FeedPosition position, List<FeedEvent> events) {
        long number = row.number.orElseThrow();
        int seen = number == position.number() ? position.index() : 0;
        for (int i = seen; i < row.notes.size(); i++) {
            FeedNote note = row.notes.get(i);
            events.add(new FeedEvent(
                    new FeedPosition(position.epoch(), number, i + 1),
                    row.at,
                    note.kind(),
                    note.job().or(() -> nameOf(note)),
                    note.run(),
                    note.facts()));
        }
    }

    private Optional<JobName> nameOf(FeedNote note) {
        return note.jobId()
                .or(() -> note.run().map(tables.runs::get).map(RunRow::owed).map(RunRow.Owed::job))
                .or(() ->
                        note.run().map(tables.ledger::get).map(LedgerLine::owed).map(RunRow.Owed::job))
                .map(tables::keyOf);
    }

    @Override
    public int forget(Instant fedBefore, int limit) {
        Head head = head();
        List<Map.Entry<Long, Fed>> old = tables.feed.entrySet().stream()
                .filter(entry -> entry.getValue().at.isBefore(fedBefore))
                .filter(entry -> entry.getValue()
                        .number
                        .filter(number -> number == head.number)
                        .isEmpty())
                .limit(limit)
                .toList();
        old.forEach(entry -> tables.remove(tables.feed, entry.getKey()));
        long highest = old.stream()
                .flatMap(entry -> entry.getValue().number.stream())
                .mapToLong(Long::longValue)
                .max()
                .orElse(0);
        if (highest >= head.keptFrom) {
            head(head.number, highest + 1, head.listenedUntil);
        }
        return old.size();
    }
}
