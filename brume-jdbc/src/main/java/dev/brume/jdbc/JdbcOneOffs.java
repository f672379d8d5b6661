package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.OneOffSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/** The steps on one-offs in SQL. */
final class JdbcOneOffs implements OneOffSteps {
    private static final String COLUMNS =
            "id, job_id, one_off_key, due_at, payload, ordered_by, parent_run, exclusive, trace";
    private static final String WAITING = "select " + COLUMNS + " from brume_one_off where made = 0";

    private final Statements sql;
    private final Dialect dialect;

    JdbcOneOffs(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    static OneOffOrder order(Row row) throws SQLException {
        return new OneOffOrder(
                row.number("id"),
                row.number("job_id"),
                row.text("one_off_key"),
                row.instant("due_at"),
                row.optionalText("payload"),
                row.text("ordered_by"),
                Rows.parent(row),
                row.optionalText("exclusive").map(name -> new GateKey(GateKey.Kind.ONE_OFF, name)),
                row.optionalText("trace"));
    }

    static OneOffRow row(Row row) throws SQLException {
        return new OneOffRow(order(row), row.integer("made") != 0);
    }

    private static Optional<String> exclusive(OneOffOrder oneOff) {
        return oneOff.exclusive().map(GateKey::name);
    }

    /** A pattern, escaped by an exclamation mark. */
    static String beginningWith(String prefix) {
        return prefix.replace("!", "!!").replace("%", "!%").replace("_", "!_") + "%";
    }

    /** The unique key alone decides, which it does at any isolation level. */
    @Override
    public boolean add(OneOffOrder oneOff) {
        return sql.addUnlessThere(
                "insert into brume_one_off (" + COLUMNS + ") values (?, ?, ?, ?, ?, ?, ?, ?, ?)"
                        + dialect.unlessThere(),
                oneOff.run(),
                oneOff.job(),
                oneOff.key(),
                oneOff.dueAt(),
                oneOff.payload(),
                oneOff.orderedBy(),
                oneOff.parent(),
                exclusive(oneOff),
                oneOff.trace());
    }

    /** The row's lock decides against whoever makes a run of it. */
    @Override
    public Optional<OneOffRow> find(long job, String key) {
        return sql.first(
                "select " + COLUMNS + ", made from brume_one_off where job_id = ? and one_off_key = ? for update",
                JdbcOneOffs::row,
                job,
                key);
    }

    @Override
    public void replace(OneOffOrder locked, OneOffOrder instead) {
        sql.update(
                "update brume_one_off set id = ?, due_at = ?, payload = ?, ordered_by = ?, exclusive = ?, trace = ?, made = 0 where id = ?",
                instead.run(),
                instead.dueAt(),
                instead.payload(),
                instead.orderedBy(),
                exclusive(instead),
                instead.trace(),
                locked.run());
    }

    @Override
    public void remove(OneOffOrder locked) {
        sql.update("delete from brume_one_off where id = ?", locked.run());
    }

    @Override
    public List<OneOffOrder> waiting(long job, String prefix, int limit) {
        return sql.query(
                WAITING + " and job_id = ? and parent_run is null and one_off_key like ? escape '!'"
                        + " order by one_off_key limit ?",
                JdbcOneOffs::order,
                job,
                beginningWith(prefix),
                limit);
    }

    @Override
    public List<OneOffOrder> due(Optional<Instant> hint, Instant until, int limit) {
        List<Object> values = new ArrayList<>(List.of(until));
        hint.ifPresent(values::add);
        values.add(limit);
        return sql.query(
                WAITING + " and due_at <= ?" + (hint.isPresent() ? " and due_at >= ?" : "")
                        + " order by due_at limit ?",
                JdbcOneOffs::order,
                values.toArray());
    }

    @Override
    public List<OneOffOrder> lock(Collection<Long> runs) {
        List<Long> sorted = List.copyOf(new TreeSet<>(runs));
        return sql.in(WAITING + " and id in ", sorted, " order by due_at for update skip locked", JdbcOneOffs::order);
    }

    @Override
    public void made(Collection<Long> runs) {
        Collection<Long> sorted = new TreeSet<>(runs);
        sql.batch(
                "delete from brume_one_off where id = ? and parent_run is not null",
                sorted,
                Statements.Parameters::add);
        sql.batch(
                "update brume_one_off set made = 1, payload = null, trace = null where id = ?",
                sorted,
                Statements.Parameters::add);
    }
}
