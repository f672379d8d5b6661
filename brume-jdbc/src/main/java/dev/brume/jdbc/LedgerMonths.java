package dev.brume.jdbc;

import dev.brume.history.IdRanges;
import dev.brume.spi.RetentionSteps.Removed;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/** The months that the ledger lies in on PostgreSQL; elsewhere it has none. The database's own functions touch them, as the owner. */
final class LedgerMonths {
    /** A month may hold very many lines, and nobody who works waits for it. */
    private static final Duration LONGEST = Duration.ofMinutes(10);

    private static final String ADD = "brume_add_months";

    private final Statements sql;

    private LedgerMonths(Statements sql) {
        this.sql = sql;
    }

    static Optional<LedgerMonths> of(Statements sql, Dialect dialect) {
        return dialect == Dialect.POSTGRESQL ? Optional.of(new LedgerMonths(sql)) : Optional.empty();
    }

    /** {@return how many were added; none by a user who may not, since somebody else will} */
    int add(Instant from, Instant until) {
        boolean may = sql.first(
                        "select has_function_privilege('" + ADD + "(timestamptz, timestamptz)', 'execute') as may",
                        row -> row.truth("may"))
                .orElseThrow();
        return may
                ? sql.first("select " + ADD + "(?, ?)", row -> row.integer(1), from, until)
                        .orElseThrow()
                : 0;
    }

    /** {@return the oldest that holds lines and ended before an instant} */
    Optional<Month> oldest(Instant before) {
        return sql.first(
                "select from_at, until_at from brume_months() where until_at <= ? and held > 0 order by from_at limit 1",
                row -> new Month(row.instant("from_at"), row.instant("until_at")),
                before);
    }

    record Month(Instant from, Instant until) {}

    /**
     * Removes a month, within a transaction that has said that it is retention.
     *
     * @param isNumbered whether it is to be known which lines there were
     */
    Removed remove(Month month, boolean isNumbered) {
        record Part(IdRanges.Range runs, long lines, Optional<Instant> first, Optional<Instant> last) {}
        List<Part> parts = sql.longer(
                LONGEST,
                () -> sql.query(
                        "select first_run, last_run, lines, first_at, last_at from brume_remove_month(?, ?) where lines > 0",
                        row -> new Part(
                                new IdRanges.Range(row.number("first_run"), row.number("last_run")),
                                row.number("lines"),
                                row.optionalInstant("first_at"),
                                row.optionalInstant("last_at")),
                        month.from,
                        isNumbered));
        return new Removed(
                parts.stream().mapToLong(Part::lines).sum(),
                parts.stream().findFirst().flatMap(Part::first),
                parts.stream().findFirst().flatMap(Part::last),
                isNumbered ? IdRanges.ofRanges(parts.stream().map(Part::runs).toList()) : IdRanges.NONE);
    }

    int drop(Instant before) {
        return sql.first("select brume_drop_months(?)", row -> row.integer(1), before)
                .orElseThrow();
    }
}
