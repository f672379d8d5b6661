package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.history.Past;
import dev.brume.history.SessionRow;
import java.sql.SQLException;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;

/** Reads what was in force at an instant. Stateless. */
final class PastRows {
    private static final String THEN = " where since_at <= ? and (until_at is null or until_at > ?)";

    private PastRows() {}

    static Past at(Statements sql, Instant at) {
        return new Past(at, PauseRows.inForce(sql, at), caps(sql, at), sessions(sql, at), waiting(sql, at));
    }

    /** The number that came to its end first after the instant; where none did, the one of today. */
    private static SortedMap<GateKey, Integer> caps(Statements sql, Instant at) {
        SortedMap<GateKey, Integer> caps = new TreeMap<>();
        sql.query("select kind, name, cap from brume_gate", row -> caps.put(JdbcGates.key(row), row.integer("cap")));
        sql.query(
                "select kind, name, cap from brume_past_gate where until_at > ? order by until_at desc",
                row -> caps.put(JdbcGates.key(row), row.integer("cap")),
                at);
        return caps;
    }

    private static List<SessionRow> sessions(Statements sql, Instant at) {
        return sql.query(
                "select s.* from (select " + JdbcSessions.ALL + " from brume_session union all select "
                        + JdbcSessions.ALL
                        + " from brume_past_session) s where opened_at <= ? and (ended_at is null or ended_at > ?)"
                        + " order by opened_at, id",
                row -> then(row, at),
                at,
                at);
    }

    private static SessionRow then(Row row, Instant at) throws SQLException {
        boolean drained = row.optionalInstant("draining_at")
                .filter(since -> !since.isAfter(at))
                .isPresent();
        return Rows.session(row).at(drained ? SessionRow.State.DRAINING : SessionRow.State.OPEN, Optional.empty());
    }

    private static SortedSet<Long> waiting(Statements sql, Instant at) {
        return new TreeSet<>(sql.query("select run_id from brume_wait" + THEN, row -> row.number(1), at, at));
    }
}
