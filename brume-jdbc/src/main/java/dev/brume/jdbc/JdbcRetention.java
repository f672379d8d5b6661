package dev.brume.jdbc;

import dev.brume.Keep;
import dev.brume.port.Kept;
import dev.brume.port.RetentionSteps;
import dev.brume.port.RunRow;
import dev.brume.seal.IdRanges;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.IntSupplier;
import java.util.function.Supplier;

/** The steps of retention in SQL; the database refuses a deletion by anyone who does not say that it is one. */
final class JdbcRetention implements RetentionSteps {
    private static final String BOUNDS = "keep_seconds, keep_runs, kept_from";

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;

    JdbcRetention(Statements sql, Dialect dialect, Supplier<Instant> now) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
    }

    private static Keep keep(Row row) throws SQLException {
        OptionalLong seconds = row.optionalNumber("keep_seconds");
        OptionalLong runs = row.optionalNumber("keep_runs");
        return new Keep(
                seconds.isPresent() ? Optional.of(Duration.ofSeconds(seconds.getAsLong())) : Optional.empty(),
                runs.isPresent() ? Optional.of(runs.getAsLong()) : Optional.empty());
    }

    @Override
    public Keep total() {
        return sql.first("select " + BOUNDS + " from brume_cluster where id = 1", JdbcRetention::keep)
                .orElseThrow();
    }

    @Override
    public void total(Keep keep) {
        sql.update(
                "update brume_cluster set keep_seconds = ?, keep_runs = ? where id = 1",
                keep.age().map(Duration::toSeconds),
                keep.runs());
    }

    @Override
    public Instant keptFrom() {
        return sql.first("select kept_from from brume_cluster where id = 1", row -> row.instant("kept_from"))
                .orElseThrow();
    }

    @Override
    public Instant keptFrom(long job) {
        Instant all = keptFrom();
        return sql.first("select kept_from from brume_job where id = ?", row -> row.instant("kept_from"), job)
                .filter(all::isBefore)
                .orElse(all);
    }

    @Override
    public List<Kept> jobs(long after, int limit) {
        return sql.query(
                "select id, namespace, name, " + BOUNDS + " from brume_job where id > ?"
                        + " and (keep_seconds is not null or keep_runs is not null) order by id limit ?",
                row -> new Kept(row.number("id"), Rows.jobKey(row), keep(row), row.instant("kept_from")),
                after,
                limit);
    }

    @Override
    public boolean begin(Instant unlessSince) {
        return sql.update(
                        "update brume_cluster set kept_at = ? where id = 1 and (kept_at is null or kept_at <= ?)",
                        now.get(),
                        unlessSince)
                > 0;
    }

    @Override
    public Removed remove(Optional<Long> job, Instant before, int limit) {
        List<Object> values = new ArrayList<>(List.of(before));
        job.ifPresent(values::add);
        values.add(limit);
        record Line(long run, long job, String slot, Instant planned) {}
        List<Line> lines = sql.query(
                "select run_id, job_id, slot, planned_at from brume_ledger where planned_at < ?"
                        + (job.isPresent() ? " and job_id = ?" : "") + " order by planned_at limit ?",
                row -> new Line(
                        row.number("run_id"), row.number("job_id"), row.text("slot"), row.instant("planned_at")),
                values.toArray());
        if (lines.isEmpty()) {
            return Removed.NOTHING;
        }
        List<Long> runs = lines.stream().map(Line::run).toList();
        Instant first = lines.get(0).planned;
        Instant last = lines.get(lines.size() - 1).planned;
        sql.batch(
                "delete from brume_one_off where job_id = ? and one_off_key = ?",
                lines.stream().filter(line -> oneOffKey(line.slot).isPresent()).toList(),
                (parameters, line) -> parameters.all(line.job, oneOffKey(line.slot)));
        asRetention(() -> {
            delete("brume_output", runs);
            delete("brume_ledger", runs);
            return runs.size();
        });
        note(job, last.plus(1, ChronoUnit.MICROS));
        return new Removed(lines.size(), Optional.of(first), Optional.of(last), IdRanges.of(runs));
    }

    private static Optional<String> oneOffKey(String slot) {
        return RunRow.Owed.oneOffKeyOf(slot);
    }

    /** The tables' own triggers let nobody else remove rows. */
    private int asRetention(IntSupplier removal) {
        dialect.sayRetention(sql, true);
        int removed;
        try {
            removed = removal.getAsInt();
        } catch (RuntimeException e) {
            sayItIsOver(e);
            throw e;
        }
        dialect.sayRetention(sql, false);
        return removed;
    }

    /** A transaction that failed may take no more statements; what it failed of is what counts. */
    private void sayItIsOver(RuntimeException why) {
        try {
            dialect.sayRetention(sql, false);
        } catch (RuntimeException e) {
            why.addSuppressed(e);
        }
    }

    private void delete(String table, List<Long> runs) {
        sql.batch("delete from " + table + " where run_id = ?", runs, (parameters, run) -> parameters.add(run));
    }

    private void note(Optional<Long> job, Instant from) {
        String set = job.isPresent()
                ? "update brume_job set kept_from = ? where id = ? and kept_from < ?"
                : "update brume_cluster set kept_from = ? where id = ? and kept_from < ?";
        sql.update(set, from, job.orElse(1L), from);
    }

    @Override
    public int close(Optional<Long> job, Instant before) {
        note(job, before);
        String spans = "delete from brume_span where until_at <= ?";
        return asRetention(() ->
                job.isPresent() ? sql.update(spans + " and job_id = ?", before, job.get()) : sql.update(spans, before));
    }

    @Override
    public List<Place> newest(Optional<Place> after, int limit) {
        String order = " order by planned_at desc, job_id desc, slot desc limit ?";
        String select = "select planned_at, job_id, slot from brume_ledger";
        if (after.isEmpty()) {
            return sql.query(select + order, JdbcRetention::place, limit);
        }
        Place last = after.get();
        return sql.query(
                select + " where planned_at <= ? and (planned_at < ? or job_id < ? or job_id = ? and slot < ?)" + order,
                JdbcRetention::place,
                last.planned(),
                last.planned(),
                last.job(),
                last.job(),
                last.slot(),
                limit);
    }

    private static Place place(Row row) throws SQLException {
        return new Place(row.instant("planned_at"), row.number("job_id"), row.text("slot"));
    }
}
