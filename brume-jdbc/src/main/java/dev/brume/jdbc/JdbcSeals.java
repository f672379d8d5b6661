package dev.brume.jdbc;

import dev.brume.port.ChangeView;
import dev.brume.port.RunView;
import dev.brume.port.SealSteps;
import dev.brume.seal.IdRanges;
import dev.brume.seal.Seal;
import dev.brume.seal.SealHead;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.ToLongFunction;

/** The statements on seals, and on lines by their numbers. */
final class JdbcSeals implements SealSteps {
    private static final String HEAD =
            "select number, digest, high_run, open_runs, high_change, open_changes from brume_seal_head where id = 1";

    /** How many ranges one statement asks for. */
    private static final int RANGES = 100;

    private final Statements sql;

    JdbcSeals(Statements sql) {
        this.sql = sql;
    }

    @Override
    public SealHead lockHead() {
        return head(HEAD + " for update");
    }

    SealHead head() {
        return head(HEAD);
    }

    private SealHead head(String query) {
        return sql.first(
                        query,
                        row -> new SealHead(
                                row.number("number"),
                                row.text("digest"),
                                row.number("high_run"),
                                IdRanges.parse(row.text("open_runs")),
                                row.number("high_change"),
                                IdRanges.parse(row.text("open_changes"))))
                .orElse(SealHead.NONE);
    }

    @Override
    public void head(SealHead head) {
        sql.update(
                "update brume_seal_head set number = ?, digest = ?, high_run = ?, open_runs = ?, high_change = ?,"
                        + " open_changes = ? where id = 1",
                head.number(),
                head.digest(),
                head.highRun(),
                head.openRuns().toString(),
                head.highChange(),
                head.openChanges().toString());
    }

    @Override
    public void add(Seal seal) {
        sql.update(
                "insert into brume_seal (number, sealed_at, sealed_by, line_count, change_count, line_ids, line_marks,"
                        + " change_ids, change_marks, digest) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                seal.number(),
                seal.sealedAt(),
                seal.sealedBy(),
                (int) seal.lines().count(),
                (int) seal.changes().count(),
                seal.lines().toString(),
                seal.lineMarks(),
                seal.changes().toString(),
                seal.changeMarks(),
                seal.digest());
    }

    List<Seal> after(long number, int limit) {
        return sql.query(
                "select * from brume_seal where number > ? order by number limit ?", JdbcSeals::seal, number, limit);
    }

    private static Seal seal(Row row) throws SQLException {
        return new Seal(
                row.number("number"),
                row.instant("sealed_at"),
                row.text("sealed_by"),
                IdRanges.parse(row.text("line_ids")),
                row.text("line_marks"),
                IdRanges.parse(row.text("change_ids")),
                row.text("change_marks"),
                row.text("digest"));
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        return numbered(RunViews.ENDED, "l.run_id", RunViews::ended, RunView::id, beyond, open, limit);
    }

    @Override
    public List<ChangeView> changes(long beyond, IdRanges open, int limit) {
        return numbered(
                "select * from brume_change where 1 = 1",
                "id",
                JdbcHistory::change,
                ChangeView::id,
                beyond,
                open,
                limit);
    }

    /** The open ones lie below the others, so they come first. */
    private <T> List<T> numbered(
            String select,
            String column,
            Statements.Mapper<T> mapper,
            ToLongFunction<T> id,
            long beyond,
            IdRanges open,
            int limit) {
        List<T> found = new ArrayList<>();
        List<IdRanges.Range> ranges = open.ranges();
        for (int from = 0; from < ranges.size() && found.size() < limit; from += RANGES) {
            List<IdRanges.Range> some = ranges.subList(from, Math.min(ranges.size(), from + RANGES));
            List<Object> values = new ArrayList<>();
            some.forEach(range -> values.addAll(List.of(range.first(), range.last())));
            values.add(limit - found.size());
            String between = column + " between ? and ?";
            found.addAll(sql.query(
                    select + " and (" + between + (" or " + between).repeat(some.size() - 1) + ") order by " + column
                            + " limit ?",
                    mapper,
                    values.toArray()));
        }
        if (found.size() < limit && beyond < Long.MAX_VALUE) {
            found.addAll(sql.query(
                    select + " and " + column + " > ? order by " + column + " limit ?",
                    mapper,
                    beyond,
                    limit - found.size()));
        }
        found.sort(Comparator.comparingLong(id));
        return found;
    }
}
