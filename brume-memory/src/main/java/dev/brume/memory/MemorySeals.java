package dev.brume.memory;

import dev.brume.Job;
import dev.brume.history.ChangeView;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.Span;
import dev.brume.history.SpanView;
import dev.brume.history.VersionKey;
import dev.brume.internal.document.JobDocument;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.SealSteps;
import dev.brume.spi.SealedForm;
import java.util.List;
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
    public List<SealedRow> rows(SealedKind kind, long beyond, IdRanges open, int limit) {
        return switch (kind) {
            case LINE ->
                in(tables.ledger, beyond, open).limit(limit).map(this::line).toList();
            case CHANGE ->
                changes(beyond, open, limit).stream().map(SealedForm::ofChange).toList();
            case SPAN ->
                numbers(tables.spans, beyond, open)
                        .limit(limit)
                        .map(number -> span(number, Tables.row(tables.spans, number)))
                        .toList();
            case DEFINITION ->
                numbers(tables.versionNumbers, beyond, open)
                        .limit(limit)
                        .map(this::version)
                        .toList();
        };
    }

    private SealedRow line(LedgerLine line) {
        RunView run = view.apply(line);
        Erasure erased = tables.erasures.get(line.run());
        return SealedForm.ofLine(
                run,
                tables.firstNameOf(run.owed().job()),
                tables.contentOf(run).orElse(erased == null ? Content.NONE : erased.content()));
    }

    private SealedRow span(long number, Span span) {
        return SealedForm.ofSpan(number, new SpanView(tables.keyOf(span.job()), span));
    }

    private SealedRow version(long number) {
        VersionKey key = Tables.row(tables.versionNumbers, number);
        Job job = Tables.row(tables.versions, key);
        return SealedForm.ofVersion(
                number,
                job.name(),
                key.number(),
                Tables.row(tables.versionsFrom, key),
                List.of("definition", JobDocument.write(job).toString()));
    }

    List<RunView> lines(long beyond, IdRanges open, int limit) {
        return in(tables.ledger, beyond, open).limit(limit).map(view).toList();
    }

    List<ChangeView> changes(long beyond, IdRanges open, int limit) {
        return in(tables.changes, beyond, open).limit(limit).toList();
    }

    private static Stream<Long> numbers(TreeMap<Long, ?> table, long beyond, IdRanges open) {
        return Stream.concat(
                open.ranges().stream()
                        .flatMap(range -> table.subMap(range.first(), true, range.last(), true).keySet().stream())
                        .filter(number -> number <= beyond),
                table.tailMap(beyond, false).keySet().stream());
    }

    static <T> Stream<T> in(TreeMap<Long, T> table, long beyond, IdRanges open) {
        return numbers(table, beyond, open).map(number -> Tables.row(table, number));
    }
}
