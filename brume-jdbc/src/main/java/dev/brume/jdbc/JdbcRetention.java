package dev.brume.jdbc;

import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Origin;
import dev.brume.history.Content;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.Kept;
import dev.brume.history.RunView;
import dev.brume.history.Span;
import dev.brume.spi.RetentionSteps;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.function.Supplier;

/** The steps of retention in SQL; the database refuses a deletion by anyone who does not say that it is one. */
final class JdbcRetention implements RetentionSteps {
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
        Keep bound = seconds.isPresent() ? Keep.upTo(Duration.ofSeconds(seconds.getAsLong())) : Keep.ALL;
        return runs.isPresent() ? bound.andNewest(runs.getAsLong()) : bound;
    }

    @Override
    public void lock() {
        ofTheWhole("job_id", row -> row.number("job_id"), " for update");
    }

    @Override
    public Keep total() {
        return ofTheWhole("keep_seconds, keep_runs", JdbcRetention::keep);
    }

    @Override
    public void total(Keep keep) {
        sql.update(
                "update brume_keep set keep_seconds = ?, keep_runs = ? where job_id = 0",
                keep.age().map(Duration::toSeconds),
                keep.runs());
    }

    private <T> T ofTheWhole(String columns, Statements.Mapper<T> mapper) {
        return ofTheWhole(columns, mapper, "");
    }

    private <T> T ofTheWhole(String columns, Statements.Mapper<T> mapper, String lock) {
        return sql.first("select " + columns + " from brume_keep where job_id = 0" + lock, mapper)
                .orElseThrow();
    }

    @Override
    public Optional<Duration> floor() {
        return ofTheWhole("floor_seconds", row -> row.optionalNumber("floor_seconds")).stream()
                .mapToObj(Duration::ofSeconds)
                .findFirst();
    }

    @Override
    public void floor(Optional<Duration> age) {
        sql.update("update brume_keep set floor_seconds = ? where job_id = 0", age.map(Duration::toSeconds));
    }

    @Override
    public Optional<String> said(String beginning) {
        return sql.first(
                "select body from brume_change where kind = 'BOUNDED' and body like ? order by id desc limit 1",
                row -> row.text("body"),
                beginning + "%");
    }

    @Override
    public Optional<Instant> appliedAt() {
        return ofTheWhole("kept_at", row -> row.optionalInstant("kept_at"));
    }

    @Override
    public Instant keptFrom() {
        return ofTheWhole("kept_from", row -> row.instant("kept_from"));
    }

    @Override
    public Instant keptFrom(long job) {
        Instant all = keptFrom();
        return sql.first("select kept_from from brume_keep where job_id = ?", row -> row.instant("kept_from"), job)
                .filter(all::isBefore)
                .orElse(all);
    }

    @Override
    public List<Kept> jobs(long after, int limit) {
        return sql.query(
                """
                select j.id, j.namespace, j.name, j.version, j.keep_seconds, j.keep_runs, k.kept_from
                from brume_job j
                left join brume_keep k on k.job_id = j.id
                where j.id > ?
                and (j.keep_seconds is not null or j.keep_runs is not null)
                order by j.id
                limit ?""",
                row -> new Kept(
                        row.number("id"),
                        Rows.jobKey(row),
                        row.integer("version"),
                        keep(row),
                        row.optionalInstant("kept_from").orElse(Instant.EPOCH)),
                after,
                limit);
    }

    @Override
    public boolean begin(Instant unlessSince) {
        return sql.update(
                        "update brume_keep set kept_at = ? where job_id = 0 and (kept_at is null or kept_at <= ?)",
                        now.get(),
                        unlessSince)
                > 0;
    }

    @Override
    public Removed remove(Optional<Long> job, Instant before, int limit) {
        List<Object> values = new ArrayList<>(List.of(before));
        job.ifPresent(values::add);
        values.add(limit);
        record Line(long run, boolean isOneOff, Instant planned) {}
        List<Line> lines = sql.query(
                "select run_id, origin, planned_at from brume_ledger where planned_at < ?"
                        + (job.isPresent() ? " and job_id = ?" : "") + " order by planned_at limit ?",
                row -> new Line(
                        row.number("run_id"),
                        row.text("origin").equals(Origin.ONE_OFF.name()),
                        row.instant("planned_at")),
                values.toArray());
        if (lines.isEmpty()) {
            return Removed.NOTHING;
        }
        List<Long> runs = lines.stream().map(Line::run).toList();
        Instant first = lines.get(0).planned;
        Instant last = lines.get(lines.size() - 1).planned;
        delete(
                "brume_one_off where made = 1 and id",
                lines.stream().filter(Line::isOneOff).map(Line::run).toList());
        asRetention(() -> {
            delete("brume_output where run_id", runs);
            delete("brume_content where run_id", runs);
            delete("brume_erasure where run_id", runs);
            delete("brume_ledger where run_id", runs);
        });
        delete("brume_wait where run_id", runs);
        note(job, last.plus(1, ChronoUnit.MICROS));
        return new Removed(lines.size(), Optional.of(first), Optional.of(last), IdRanges.of(runs));
    }

    @Override
    public int addMonths(Instant from, Instant until) {
        return LedgerMonths.of(sql, dialect)
                .map(months -> months.add(from, until))
                .orElse(0);
    }

    @Override
    public Optional<Removed> removeMonth(Instant before, boolean isNumbered) {
        return LedgerMonths.of(sql, dialect)
                .flatMap(months -> months.oldest(before).map(oldest -> {
                    Removed removed = asRetention(() -> months.remove(oldest, isNumbered));
                    note(Optional.empty(), oldest.until());
                    return removed;
                }));
    }

    @Override
    public int dropMonths(Instant before) {
        return LedgerMonths.of(sql, dialect).map(months -> months.drop(before)).orElse(0);
    }

    /** The tables' own triggers let nobody else remove rows. */
    private <T> T asRetention(Supplier<T> removal) {
        dialect.sayRetention(sql, true);
        T removed;
        try {
            removed = removal.get();
        } catch (RuntimeException e) {
            sayItIsOver(e);
            throw e;
        }
        dialect.sayRetention(sql, false);
        return removed;
    }

    private void asRetention(Runnable removal) {
        asRetention(() -> {
            removal.run();
            return null;
        });
    }

    /** A transaction that failed may take no more statements; what it failed of is what counts. */
    private void sayItIsOver(RuntimeException why) {
        try {
            dialect.sayRetention(sql, false);
        } catch (RuntimeException e) {
            why.addSuppressed(e);
        }
    }

    private void delete(String what, List<Long> numbers) {
        sql.batch("delete from " + what + " = ?", numbers, (parameters, number) -> parameters.add(number));
    }

    private void note(Optional<Long> job, Instant from) {
        long whose = job.orElse(0L);
        int there = sql.update(
                "update brume_keep set kept_from = case when kept_from < ? then ? else kept_from end where job_id = ?",
                from,
                from,
                whose);
        if (there == 0) {
            sql.update("insert into brume_keep (job_id, kept_from) values (?, ?)", whose, from);
        }
    }

    @Override
    public Removed removeSpans(Optional<Long> job, Instant before, int limit) {
        List<Object> values = new ArrayList<>(List.of(before));
        job.ifPresent(values::add);
        values.add(limit);
        List<Long> numbers = new ArrayList<>();
        List<Span> spans = sql.query(
                "select * from brume_span where until_at <= ?" + (job.isPresent() ? " and job_id = ?" : "")
                        + " order by until_at limit ?",
                row -> {
                    numbers.add(row.number("id"));
                    return JdbcHistory.plainSpan(row);
                },
                values.toArray());
        asRetention(() -> delete("brume_span where id", numbers));
        return Removed.spans(spans, IdRanges.of(numbers));
    }

    @Override
    public Optional<Content> content(long run) {
        return line(run).map(view -> Content.of(view, new JdbcSeals(sql).printedBy(run)));
    }

    private Optional<RunView> line(long run) {
        return sql.first(RunViews.ENDED + " and l.run_id = ?", RunViews::ended, run);
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        return erasure(sql, run);
    }

    static Optional<Erasure> erasure(Statements sql, long run) {
        return sql.first("select * from brume_erasure where run_id = ?", JdbcRetention::erasure, run);
    }

    static List<Erasure> erasures(Statements sql, long after, int limit) {
        return sql.query(
                "select * from brume_erasure where run_id > ? order by run_id limit ?",
                JdbcRetention::erasure,
                after,
                limit);
    }

    static Erasure erasure(Row row) throws SQLException {
        return new Erasure(
                row.number("run_id"),
                row.instant("erased_at"),
                row.text("who"),
                row.text("because"),
                Content.parse(row.text("content")));
    }

    @Override
    public List<Long> runsOf(JobName job, String key) {
        return sql.query(
                "select l.run_id from brume_ledger l join brume_job j on j.id = l.job_id"
                        + " where j.live_key = ? and l.one_off_key = ? order by l.run_id",
                row -> row.number(1),
                Rows.liveKey(job),
                key);
    }

    @Override
    public List<Long> rerunsOf(long run) {
        List<Long> reruns = new ArrayList<>();
        for (String table : List.of(
                "brume_ledger r on r.planned_at = l.planned_at and r.job_id = l.job_id and r.run_id",
                "brume_run r on r.planned_at = l.planned_at and r.job_id = l.job_id and r.id")) {
            String id = table.substring(table.lastIndexOf(' ') + 1);
            reruns.addAll(sql.query(
                    "select " + id + " as run from brume_ledger l join " + table
                            + " <> l.run_id where l.run_id = ? and r.origin = 'RERUN' order by 1",
                    row -> row.number("run"),
                    run));
        }
        return reruns;
    }

    @Override
    public void erase(Erasure erasure) {
        asRetention(() -> {
            delete("brume_output where run_id", List.of(erasure.run()));
            delete("brume_content where run_id", List.of(erasure.run()));
        });
        sql.update(
                "insert into brume_erasure (run_id, erased_at, who, because, content) values (?, ?, ?, ?, ?)",
                erasure.run(),
                erasure.at(),
                erasure.who(),
                erasure.because(),
                erasure.content().text());
    }

    @Override
    public void close(Optional<Long> job, Instant before) {
        if (job.isEmpty()) {
            for (String past : List.of(
                    "brume_pause where until_at",
                    "brume_past_gate where until_at",
                    "brume_past_session where ended_at")) {
                sql.update("delete from " + past + " < ?", before);
            }
        }
        JdbcRollUp.forget(sql, job, before);
        note(job, before);
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
