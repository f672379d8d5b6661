package dev.brume.jdbc;

import dev.brume.history.LeaseRow;
import dev.brume.spi.LeaseSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Optional;

/** The steps on leases by name in SQL. */
final class JdbcLeases implements LeaseSteps {
    static final String COLUMNS = "name, holder, fence, taken_at, renewed_at, until_at, free_at";

    private final Statements sql;
    private final Dialect dialect;

    JdbcLeases(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    static LeaseRow row(Row row) throws SQLException {
        return new LeaseRow(
                row.text("name"),
                row.text("holder"),
                row.number("fence"),
                row.instant("taken_at"),
                row.instant("renewed_at"),
                row.instant("until_at"),
                row.instant("free_at"));
    }

    @Override
    public Optional<LeaseRow> lock(String name) {
        return sql.first("select " + COLUMNS + " from brume_lease where name = ? for update", JdbcLeases::row, name);
    }

    @Override
    public boolean add(LeaseRow lease) {
        return sql.addUnlessThere(
                "insert into brume_lease (" + COLUMNS + ") values (?, ?, ?, ?, ?, ?, ?)" + dialect.unlessThere(),
                lease.name(),
                lease.holder(),
                lease.fence(),
                lease.takenAt(),
                lease.renewedAt(),
                lease.until(),
                lease.freeAt());
    }

    @Override
    public void write(LeaseRow lease) {
        sql.update(
                "update brume_lease set holder = ?, fence = ?, taken_at = ?, renewed_at = ?, until_at = ?, free_at = ?"
                        + " where name = ?",
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
        return sql.update("delete from brume_lease where free_at < ?", freeSince);
    }
}
