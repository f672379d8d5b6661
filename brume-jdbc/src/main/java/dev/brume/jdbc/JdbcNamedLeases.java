package dev.brume.jdbc;

import dev.brume.history.NamedLeaseRow;
import dev.brume.spi.NamedLeaseSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Optional;

/** The steps on leases by name in SQL. */
final class JdbcNamedLeases implements NamedLeaseSteps {
    static final String COLUMNS = "name, holder, fence, taken_at, renewed_at, until_at, free_at";

    private final Statements sql;
    private final Dialect dialect;

    JdbcNamedLeases(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    static NamedLeaseRow row(Row row) throws SQLException {
        return new NamedLeaseRow(
                row.text("name"),
                row.text("holder"),
                row.number("fence"),
                row.instant("taken_at"),
                row.instant("renewed_at"),
                row.instant("until_at"),
                row.instant("free_at"));
    }

    @Override
    public Optional<NamedLeaseRow> lock(String name) {
        return sql.first(
                "select " + COLUMNS + " from brume_named_lease where name = ? for update", JdbcNamedLeases::row, name);
    }

    @Override
    public boolean add(NamedLeaseRow lease) {
        return sql.addUnlessThere(
                "insert into brume_named_lease (" + COLUMNS + ") values (?, ?, ?, ?, ?, ?, ?)" + dialect.unlessThere(),
                lease.name(),
                lease.holder(),
                lease.fence(),
                lease.takenAt(),
                lease.renewedAt(),
                lease.until(),
                lease.freeAt());
    }

    @Override
    public void write(NamedLeaseRow lease) {
        sql.update(
                """
                update brume_named_lease
                set holder = ?, fence = ?, taken_at = ?, renewed_at = ?, until_at = ?, free_at = ?
                where name = ?""",
                lease.holder(),
                lease.fence(),
                lease.takenAt(),
                lease.renewedAt(),
                lease.until(),
                lease.freeAt(),
                lease.name());
    }

    @Override
    public int forget(Instant freeSince) {
        return sql.update("delete from brume_named_lease where free_at < ?", freeSince);
    }
}
