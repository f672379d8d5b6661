package dev.brume.memory;

import dev.brume.port.ChangeView;
import dev.brume.port.LedgerLine;
import dev.brume.port.RunView;
import dev.brume.port.SealSteps;
import dev.brume.seal.IdRanges;
import dev.brume.seal.Seal;
import dev.brume.seal.SealHead;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Stream;

/** The steps of sealing, on maps. */
final class MemorySeals implements SealSteps {
    private static final String HEAD = "head";

    private final Tables tables;
    private final Function<LedgerLine, RunView> view;

    MemorySeals(Tables tables, Function<LedgerLine, RunView> view) {
        this.tables = tables;
        this.view = view;
    }

    @Override
    public SealHead lockHead() {
        return tables.sealHead.getOrDefault(HEAD, SealHead.NONE);
    }

    @Override
    public void head(SealHead head) {
        tables.put(tables.sealHead, HEAD, head);
    }

    @Override
    public void add(Seal seal) {
        tables.put(tables.seals, seal.number(), seal);
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        return in(tables.ledger, beyond, open).limit(limit).map(view).toList();
    }

    @Override
    public List<ChangeView> changes(long beyond, IdRanges open, int limit) {
        return in(tables.changes, beyond, open).limit(limit).toList();
    }

    private static <T> Stream<T> in(TreeMap<Long, T> table, long beyond, IdRanges open) {
        return Stream.concat(
                        open.ranges().stream()
                                .flatMap(range ->
                                        table.subMap(range.first(), true, range.last(), true).entrySet().stream())
                                .filter(entry -> entry.getKey() <= beyond),
                        table.tailMap(beyond, false).entrySet().stream())
                .map(Map.Entry::getValue);
    }
}
