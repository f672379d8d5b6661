package dev.brume.jdbc;

import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.OneOffSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;

/** The steps on one-offs in SQL. */
final class JdbcOneOffs implements OneOffSteps {
    private static final String SELECT =
            "select id, job_id, one_off_key, due_at, payload, ordered_by, parent_run from brume_one_off where run_id is null";

    private final Statements sql;
    private final Dialect dialect;

    JdbcOneOffs(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    private static OneOffRow row(Row row) throws SQLException {
        return new OneOffRow(
                row.number("id"),
                new OneOffOrder(
                        row.number("job_id"),
                        row.text("one_off_key"),
                        row.instant("due_at"),
                        row.optionalText("payload"),
                        row.text("ordered_by"),
                        Rows.parent(row)));
    }

    /** The unique key alone decides, which it does at any isolation level. */
    @Override
    public boolean add(OneOffOrder oneOff) {
        return sql.addUnlessThere(
                "insert into brume_one_off (job_id, one_off_key, due_at, payload, ordered_by, parent_run)"
                        + " values (?, ?, ?, ?, ?, ?)"
                        + dialect.unlessThere(),
                oneOff.job(),
                oneOff.key(),
                oneOff.dueAt(),
                oneOff.payload(),
                oneOff.orderedBy(),
                oneOff.parent());
    }

    /** The row's lock decides against whoever makes a run of it. */
    @Override
    public boolean move(long job, String key, Instant dueAt) {
        return sql.update(
                        "update brume_one_off set due_at = ? where job_id = ? and one_off_key = ? and run_id is null",
                        dueAt,
                        job,
                        key)
                > 0;
    }

    @Override
    public boolean remove(long job, String key) {
        return sql.update("delete from brume_one_off where job_id = ? and one_off_key = ? and run_id is null", job, key)
                > 0;
    }

    @Override
    public List<OneOffRow> due(Optional<Instant> hint, Instant until, int limit) {
        List<Object> values = new ArrayList<>(List.of(until));
        hint.ifPresent(values::add);
        values.add(limit);
        return sql.query(
                SELECT + " and due_at <= ?" + (hint.isPresent() ? " and due_at >= ?" : "") + " order by due_at limit ?",
                JdbcOneOffs::row,
                values.toArray());
    }

    @Override
    public List<OneOffRow> lock(Collection<Long> ids) {
        List<Long> sorted = List.copyOf(new TreeSet<>(ids));
        return sql.in(SELECT + " and id in ", sorted, " order by due_at for update skip locked", JdbcOneOffs::row);
    }

    @Override
    public void taken(Map<Long, Long> runs) {
        sql.batch(
                "delete from brume_one_off where id = ? and parent_run is not null",
                new TreeMap<>(runs).keySet(),
                (parameters, id) -> parameters.add(id));
        sql.batch(
                "update brume_one_off set run_id = ?, payload = null where id = ?",
                new TreeMap<>(runs).entrySet(),
                (parameters, run) -> parameters.all(run.getValue(), run.getKey()));
    }
}
