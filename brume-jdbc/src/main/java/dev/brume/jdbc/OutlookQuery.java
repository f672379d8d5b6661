package dev.brume.jdbc;

import dev.brume.history.SessionRow;
import dev.brume.internal.document.JobDocument;
import dev.brume.spi.Outlook;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;

/** Looks at when there is something to do next, all of it in one statement. */
final class OutlookQuery {
    private final Store.Look look;
    private final Dialect dialect;
    private final Optional<Instant> virtual;
    private final List<Object> values = new ArrayList<>();

    /**
     * Begins.
     *
     * @param virtual what time it is, if that is not the database's to say
     */
    OutlookQuery(Store.Look look, Dialect dialect, Optional<Instant> virtual) {
        this.look = look;
        this.dialect = dialect;
        this.virtual = virtual;
    }

    Outlook run(Statements sql) {
        String clock = virtual.isPresent() ? "c.clock" : dialect.clock();
        String due = earliest("next_at", "brume_job", JdbcTransaction.READABLE, look.share());
        String any = look.share().isWhole()
                ? "cast(null as " + dialect.instantType() + ")"
                : earliest("next_at", "brume_job", JdbcTransaction.READABLE, Share.WHOLE);
        String oneOff = earliest("due_at", "brume_one_off", " and made = 0", Share.WHOLE);
        String opening = earliest("opens_at", "brume_gate", "", Share.WHOLE);
        String ready = readyQuery();
        String unsettled = look.wide() ? "exists (select 1 from brume_settle)" : "false";
        String lapsed = look.wide()
                ? "exists (select 1 from brume_session where state = 'LAPSED'"
                        + " or state in ('OPEN', 'DRAINING') and (lease_until <= " + clock + " or renewed_at > " + clock
                        + " + interval '" + SessionRow.AHEAD.toSeconds() + "' second))"
                : "false";
        String stops = look.wide() ? "exists (select 1 from brume_stop)" : "false";
        String tooLate = look.wide() ? "exists (select 1 from brume_run where start_by <= " + clock + ")" : "false";
        String beyond = look.wide()
                ? "exists (select 1 from brume_job where next_at <= " + clock + " and format > " + JobDocument.FORMAT
                        + ")"
                : "false";
        String awaited = look.wide() && dialect == Dialect.POSTGRESQL
                ? "exists (select 1 from brume_awaiting where until_at > " + clock + ")"
                : "false";
        String query = "select " + clock + " as clock, " + due + " as due, " + any + " as due_of_any, " + oneOff
                + " as one_off, " + opening + " as opening, " + ready
                + " as ready, " + unsettled + " as unsettled, " + lapsed + " as lapsed, " + stops + " as stops, "
                + tooLate + " as too_late, "
                + beyond + " as beyond, " + awaited + " as ends_awaited"
                + (virtual.isPresent() ? " from (select " + dialect.instantPlace() + " as clock) c" : "");
        virtual.ifPresent(values::add);
        return sql.first(
                        query,
                        row -> new Outlook(
                                row.instant("clock"),
                                row.optionalInstant("due"),
                                row.optionalInstant(look.share().isWhole() ? "due" : "due_of_any"),
                                row.optionalInstant("one_off"),
                                row.optionalInstant("opening"),
                                row.optionalInstant("ready"),
                                row.truth("unsettled"),
                                row.truth("lapsed"),
                                row.truth("stops"),
                                row.truth("too_late"),
                                row.truth("beyond"),
                                row.truth("ends_awaited")),
                        values.toArray())
                .orElseThrow();
    }

    /** The first of an index's order: a minimum under a condition would be looked for in all rows. */
    private String earliest(String column, String table, String condition, Share share) {
        values.add(look.hint().orElse(Instant.EPOCH));
        String own = ShareCondition.of(share, values);
        return "(select " + column + " from " + table + " where " + column + " >= ?" + condition + own + " order by "
                + column + " limit 1)";
    }

    private String hint(String column) {
        look.hint().ifPresent(values::add);
        return look.hint().isPresent() ? " and " + column + " >= ?" : "";
    }

    private String readyQuery() {
        Collection<String> lanes = look.lanes();
        if (lanes.isEmpty()) {
            return "cast(null as " + dialect.instantType() + ")";
        }
        if (dialect == Dialect.POSTGRESQL) {
            values.add(String.join(",", lanes));
            String condition = hint("x.ready_at") + ClaimRows.needsMet(look.ability(), values);
            return """
                    (select min(r.ready_at)
                    from generate_series(0, 9) as p(priority)
                    cross join unnest(string_to_array(?, ',')) as l(lane)
                    cross join lateral (
                        select x.ready_at
                        from brume_run x
                        where x.state in ('PLANNED', 'BACKING_OFF') and x.lane = l.lane and x.priority = p.priority
                            {condition}
                        order by x.ready_at
                        limit 1
                    ) r)""".replace("{condition}", condition);
        }
        String column = dialect.readyColumn();
        List<String> each = new ArrayList<>();
        for (String lane : lanes) {
            for (int priority = 0; priority <= 9; priority++) {
                values.add(lane);
                String condition = hint(column) + ClaimRows.needsMet(look.ability(), values);
                each.add("(select " + column + " as at from brume_run where state in ('PLANNED', 'BACKING_OFF')"
                        + " and lane = ? and priority = " + priority + condition + " order by " + column + " limit 1)");
            }
        }
        return "(select min(at) from (" + String.join(" union all ", each) + ") x)";
    }
}
