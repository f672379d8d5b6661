package dev.brume.jdbc;

import dev.brume.history.IdRanges;
import dev.brume.spi.RetentionSteps.Removed;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The months that the ledger lies in on PostgreSQL; elsewhere it has none. The database's own functions touch them, as the owner. */
final class LedgerMonths {
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

    /** Removes a month, within a transaction that has said that it is retention. */
    Removed remove(Month month) {
        record Island(IdRanges.Range runs, Instant first, Instant last) {}
        List<Island> islands = sql.query(
                "select first_run, last_run, first_at, last_at from brume_remove_month(?)",
                row -> new Island(
                        new IdRanges.Range(row.number("first_run"), row.number("last_run")),
                        row.instant("first_at"),
                        row.instant("last_at")),
                month.from);
        List<IdRanges.Range> runs = new ArrayList<>();
        islands.forEach(island -> runs.add(island.runs));
        IdRanges numbers = IdRanges.ofRanges(runs);
        return new Removed(
                numbers.count(),
                islands.stream().map(Island::first).min(Instant::compareTo),
                islands.stream().map(Island::last).max(Instant::compareTo),
                numbers);
    }

    int drop(Instant before) {
        return sql.first("select brume_drop_months(?)", row -> row.integer(1), before)
                .orElseThrow();
    }
}
