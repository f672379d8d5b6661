package dev.brume.memory;

import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.OneOffSteps;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;

/** The steps on one-offs, on maps. */
final class MemoryOneOffs implements OneOffSteps {
    private final Tables tables;

    MemoryOneOffs(Tables tables) {
        this.tables = tables;
    }

    @Override
    public boolean add(OneOffOrder oneOff) {
        boolean there = tables.oneOffs.values().stream()
                .map(Tables.StoredOneOff::oneOff)
                .anyMatch(other -> other.job() == oneOff.job() && other.key().equals(oneOff.key()));
        if (!there) {
            long id = tables.next("oneOff");
            tables.put(tables.oneOffs, id, new Tables.StoredOneOff(id, oneOff, Optional.empty()));
        }
        return !there;
    }

    private Optional<Tables.StoredOneOff> waiting(long job, String key) {
        return tables.oneOffs.values().stream()
                .filter(stored -> stored.run().isEmpty())
                .filter(stored ->
                        stored.oneOff().job() == job && stored.oneOff().key().equals(key))
                .findFirst();
    }

    @Override
    public boolean move(long job, String key, Instant dueAt) {
        Optional<Tables.StoredOneOff> found = waiting(job, key);
        found.ifPresent(stored -> {
            OneOffOrder before = stored.oneOff();
            OneOffOrder moved = new OneOffOrder(job, key, dueAt, before.payload(), before.orderedBy(), before.parent());
            tables.put(tables.oneOffs, stored.id(), new Tables.StoredOneOff(stored.id(), moved, Optional.empty()));
        });
        return found.isPresent();
    }

    @Override
    public boolean remove(long job, String key) {
        Optional<Tables.StoredOneOff> found = waiting(job, key);
        found.ifPresent(stored -> tables.remove(tables.oneOffs, stored.id()));
        return found.isPresent();
    }

    @Override
    public List<OneOffRow> due(Optional<Instant> hint, Instant until, int limit) {
        return tables.oneOffs.values().stream()
                .filter(stored -> stored.run().isEmpty())
                .map(stored -> new OneOffRow(stored.id(), stored.oneOff()))
                .filter(row -> !row.oneOff().dueAt().isAfter(until))
                .filter(row -> hint.isEmpty() || !row.oneOff().dueAt().isBefore(hint.get()))
                .sorted(Comparator.comparing(row -> row.oneOff().dueAt()))
                .limit(limit)
                .toList();
    }

    @Override
    public List<OneOffRow> lock(Collection<Long> ids) {
        return ids.stream()
                .map(tables.oneOffs::get)
                .filter(Objects::nonNull)
                .filter(stored -> stored.run().isEmpty())
                .map(stored -> new OneOffRow(stored.id(), stored.oneOff()))
                .toList();
    }

    /** Its run has it from then on, as long as it needs it. */
    private static OneOffOrder withoutPayload(OneOffOrder oneOff) {
        return new OneOffOrder(
                oneOff.job(), oneOff.key(), oneOff.dueAt(), Optional.empty(), oneOff.orderedBy(), oneOff.parent());
    }

    @Override
    public void taken(Map<Long, Long> runs) {
        runs.forEach((id, run) -> {
            OneOffOrder oneOff = Tables.row(tables.oneOffs, id).oneOff();
            if (oneOff.parent().isPresent()) {
                tables.remove(tables.oneOffs, id);
            } else {
                tables.put(tables.oneOffs, id, new Tables.StoredOneOff(id, withoutPayload(oneOff), Optional.of(run)));
            }
        });
    }
}
