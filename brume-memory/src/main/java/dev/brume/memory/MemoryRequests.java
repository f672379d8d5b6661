package dev.brume.memory;

import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import dev.brume.spi.RequestSteps;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;

/** The steps on requests that carry a key, on maps. */
final class MemoryRequests implements RequestSteps {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryRequests(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public Optional<RequestRow> begin(RequestKey key, String digest) {
        Optional<RequestRow> before = Optional.ofNullable(tables.requests.get(key));
        if (before.isEmpty()) {
            tables.put(
                    tables.requests, key, new RequestRow(key, digest, clock.get(), Optional.empty(), Optional.empty()));
        }
        return before;
    }

    @Override
    public void done(RequestKey key, String answer, Optional<Long> run) {
        RequestRow begun = Tables.row(tables.requests, key);
        tables.put(
                tables.requests, key, new RequestRow(key, begun.digest(), begun.begunAt(), Optional.of(answer), run));
    }

    @Override
    public int forget(Instant heardBefore, int limit) {
        List<RequestKey> old = tables.requests.values().stream()
                .filter(row -> row.begunAt().isBefore(heardBefore))
                .filter(row -> row.run()
                        .filter(run -> tables.runs.containsKey(run)
                                || tables.ledger.containsKey(run)
                                || tables.oneOffs.containsKey(run))
                        .isEmpty())
                .sorted(Comparator.comparing(RequestRow::begunAt))
                .limit(limit)
                .map(RequestRow::key)
                .toList();
        old.forEach(key -> tables.remove(tables.requests, key));
        return old.size();
    }
}
