package dev.brume.jdbc;

import dev.brume.JobName;
import dev.brume.history.ChangeView;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.Members;
import dev.brume.history.Output;
import dev.brume.history.Printed;
import dev.brume.history.Reach;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.spi.SealSteps;
import dev.brume.spi.SealedForm;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/** The statements on seals, and on rows by their numbers. */
final class JdbcSeals implements SealSteps {
    /** Outputs of how many runs are in memory at once. */
    private static final int OUTPUTS = 100;

    private final Statements sql;

    JdbcSeals(Statements sql) {
        this.sql = sql;
    }

    private static String column(String before, SealedKind kind, String after) {
        return before + kind.name().toLowerCase(Locale.ROOT) + after;
    }

    @Override
    public SealHead lockHead() {
        return head(" for update");
    }

    SealHead head() {
        return head("");
    }

    private SealHead head(String lock) {
        return sql.first("select * from brume_seal_head where id = 1" + lock, JdbcSeals::head)
                .orElse(SealHead.NONE);
    }

    private static SealHead head(Row row) throws SQLException {
        Map<SealedKind, Reach> reaches = new EnumMap<>(SealedKind.class);
        for (SealedKind kind : SealedKind.values()) {
            reaches.put(
                    kind,
                    new Reach(
                            row.number(column("high_", kind, "")),
                            IdRanges.parse(row.text(column("open_", kind, "")))));
        }
        return new SealHead(row.number("number"), row.text("digest"), reaches);
    }

    @Override
    public void head(SealHead head) {
        StringBuilder set = new StringBuilder("update brume_seal_head set number = ?, digest = ?");
        List<Object> values = new ArrayList<>(List.of(head.number(), head.digest()));
        for (SealedKind kind : SealedKind.values()) {
            set.append(column(", high_", kind, " = ?")).append(column(", open_", kind, " = ?"));
            Reach reach = head.reach(kind);
            values.add(reach.high());
            values.add(reach.open().toString());
        }
        sql.update(set + " where id = 1", values.toArray());
    }

    @Override
    public void add(Seal seal) {
        StringBuilder insert = new StringBuilder("insert into brume_seal (number, sealed_at, sealed_by, digest");
        List<Object> values = new ArrayList<>(List.of(seal.number(), seal.sealedAt(), seal.sealedBy(), seal.digest()));
        for (SealedKind kind : SealedKind.values()) {
            insert.append(column(", ", kind, "_numbers")).append(column(", ", kind, "_marks"));
            Members members = seal.members(kind);
            values.add(members.numbers().toString());
            values.add(members.marks());
        }
        sql.update(insert + ") values (?" + ", ?".repeat(values.size() - 1) + ")", values.toArray());
    }

    List<Seal> after(long number, int limit) {
        return sql.query(
                "select * from brume_seal where number > ? order by number limit ?", JdbcSeals::seal, number, limit);
    }

    private static Seal seal(Row row) throws SQLException {
        Map<SealedKind, Members> covered = new EnumMap<>(SealedKind.class);
        for (SealedKind kind : SealedKind.values()) {
            covered.put(
                    kind,
                    new Members(
                            IdRanges.parse(row.text(column("", kind, "_numbers"))),
                            row.text(column("", kind, "_marks"))));
        }
        return new Seal(
                row.number("number"), row.instant("sealed_at"), row.text("sealed_by"), covered, row.text("digest"));
    }

    @Override
    public List<SealedRow> rows(SealedKind kind, long beyond, IdRanges open, int limit) {
        return switch (kind) {
            case LINE -> sealed(lines(beyond, open, limit));
            case CHANGE ->
                changes(beyond, open, limit).stream().map(SealedForm::ofChange).toList();
            case SPAN ->
                new NumberedRows<>(
                                "select j.namespace, j.name, s.* from brume_span s join brume_job j on j.id = s.job_id where 1 = 1",
                                "s.id",
                                row -> SealedForm.ofSpan(row.number("id"), JdbcHistory.span(row)),
                                SealedRow::number)
                        .read(sql, beyond, open, limit);
            case DEFINITION ->
                new NumberedRows<>(
                                "select j.namespace, j.name, v.* from brume_definition v join brume_job j on j.id = v.job_id where 1 = 1",
                                "v.id",
                                JdbcSeals::version,
                                SealedRow::number)
                        .read(sql, beyond, open, limit);
        };
    }

    private static SealedRow version(Row row) throws SQLException {
        return SealedForm.ofVersion(
                row.number("id"),
                Rows.jobKey(row),
                row.integer("number"),
                row.instant("defined_at"),
                List.of(
                        "jobId",
                        row.text("job_id"),
                        "definition",
                        row.text("definition"),
                        "pins",
                        row.optionalText("pins").orElse(""),
                        "tzdata",
                        row.optionalText("tzdata").orElse(""),
                        "source",
                        row.text("source")));
    }

    /** What attempts printed may be long: some runs at a time, and of each its digest is all that stays. */
    private List<SealedRow> sealed(List<RunView> lines) {
        Map<Long, List<Printed>> printed = new HashMap<>();
        Map<Long, Content> erased = new HashMap<>();
        Map<Long, JobName> firstNames = DefinitionRows.firstNames(
                sql, lines.stream().map(line -> line.owed().job()).toList());
        for (int from = 0; from < lines.size(); from += OUTPUTS) {
            List<Long> runs = lines.subList(from, Math.min(lines.size(), from + OUTPUTS)).stream()
                    .map(RunView::id)
                    .toList();
            printed.putAll(printedBy(runs));
            sql.in("select * from brume_erasure where run_id in ", runs, "", row -> {
                Erasure erasure = JdbcRetention.erasure(row);
                return erased.put(erasure.run(), erasure.content());
            });
        }
        return lines.stream()
                .map(line -> SealedForm.ofLine(
                        line,
                        firstNames.getOrDefault(line.owed().job(), line.job()),
                        Content.of(line, printed.getOrDefault(line.id(), List.of()))
                                .orElse(erased.getOrDefault(line.id(), Content.NONE))))
                .toList();
    }

    private Map<Long, List<Printed>> printedBy(List<Long> runs) {
        Map<Long, List<Printed>> printed = new HashMap<>();
        sql.in(
                "select run_id, attempt, body, bytes, omitted from brume_output where run_id in ",
                runs,
                " order by run_id, attempt",
                row -> printed.computeIfAbsent(row.number(1), run -> new ArrayList<>())
                        .add(Printed.of(row.integer(2), new Output(row.text(3), row.number(4), row.number(5)))));
        return printed;
    }

    List<Printed> printedBy(long run) {
        return printedBy(List.of(run)).getOrDefault(run, List.of());
    }

    List<RunView> lines(long beyond, IdRanges open, int limit) {
        return new NumberedRows<>(RunViews.ENDED, "l.run_id", RunViews::ended, RunView::id)
                .read(sql, beyond, open, limit);
    }

    List<ChangeView> changes(long beyond, IdRanges open, int limit) {
        return new NumberedRows<>("select * from brume_change where 1 = 1", "id", JdbcHistory::change, ChangeView::id)
                .read(sql, beyond, open, limit);
    }
}
