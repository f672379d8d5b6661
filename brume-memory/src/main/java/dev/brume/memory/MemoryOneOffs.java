package dev.brume.memory;

import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.OneOffSteps;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Stream;

/** The steps on one-offs, on maps. */
final class MemoryOneOffs implements OneOffSteps {
    private final Tables tables;

    MemoryOneOffs(Tables tables) {
        this.tables = tables;
    }

    @Override
    public boolean add(OneOffOrder oneOff) {
        boolean isNew = find(oneOff.job(), oneOff.key()).isEmpty();
        if (isNew) {
            tables.put(tables.oneOffs, oneOff.run(), new OneOffRow(oneOff, /* made= */ false));
        }
        return isNew;
    }

    @Override
    public Optional<OneOffRow> find(long job, String key) {
        return tables.oneOffs.values().stream()
                .filter(row -> row.oneOff().job() == job && row.oneOff().key().equals(key))
                .findFirst();
    }

    @Override
    public void replace(OneOffOrder locked, OneOffOrder instead) {
        tables.remove(tables.oneOffs, locked.run());
        tables.put(tables.oneOffs, instead.run(), new OneOffRow(instead, /* made= */ false));
    }

    @Override
    public void remove(OneOffOrder locked) {
        tables.remove(tables.oneOffs, locked.run());
    }

    private Stream<OneOffOrder> waiting() {
        return tables.oneOffs.values().stream().filter(row -> !row.made()).map(OneOffRow::oneOff);
    }

    @Override
    public List<OneOffOrder> waiting(long job, String prefix, int limit) {
        return waiting()
                .filter(oneOff -> oneOff.job() == job && oneOff.key().startsWith(prefix))
                .filter(oneOff -> oneOff.parent().isEmpty())
                .sorted(Comparator.comparing(OneOffOrder::key))
                .limit(limit)
                .toList();
    }

    @Override
    public List<OneOffOrder> due(Optional<Instant> hint, Instant until, int limit) {
        return waiting()
                .filter(oneOff -> !oneOff.dueAt().isAfter(until))
                .filter(oneOff -> hint.isEmpty() || !oneOff.dueAt().isBefore(hint.get()))
                .sorted(Comparator.comparing(OneOffOrder::dueAt))
                .limit(limit)
                .toList();
    }

    @Override
    public List<OneOffOrder> lock(Collection<Long> runs) {
        return runs.stream()
                .map(tables.oneOffs::get)
                .filter(Objects::nonNull)
                .filter(row -> !row.made())
                .map(OneOffRow::oneOff)
                .toList();
    }

    @Override
    public void made(Collection<Long> runs) {
        for (long run : runs) {
            OneOffOrder oneOff = Tables.row(tables.oneOffs, run).oneOff();
            if (oneOff.parent().isPresent()) {
                tables.remove(tables.oneOffs, run);
            } else {
                tables.put(tables.oneOffs, run, new OneOffRow(withoutPayload(oneOff), /* made= */ true));
            }
        }
    }

    /** Its run has it from then on, as long as it needs it. */
    private static OneOffOrder withoutPayload(OneOffOrder oneOff) {
        return new OneOffOrder(
                oneOff.run(),
                oneOff.job(),
                oneOff.key(),
                oneOff.dueAt(),
                Optional.empty(),
                oneOff.orderedBy(),
                oneOff.parent(),
                oneOff.exclusive(),
                Optional.empty());
    }
}
