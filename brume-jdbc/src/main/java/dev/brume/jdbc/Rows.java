package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.instant;
import static dev.brume.jdbc.Statements.optionalInstant;
import static dev.brume.jdbc.Statements.optionalText;
import static dev.brume.jdbc.Statements.optionalUuid;

import dev.brume.JobKey;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.port.AfterEnd;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.RunRow;
import dev.brume.port.SessionRow;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/** Reads the rows that several statements share. */
final class Rows {
    static final String JOB =
            "id, namespace, name, version, source, cursor_at, next_at, used, cap, waiting," + " end_due_at, end_run";
    static final String RUN =
            "id, job_id, planned_at, slot, origin, nominal, zone, note, version, state, lane, priority,"
                    + " handler, ready_at, session_id, fence, leased_at, attempts, attempt, payload";
    static final String SESSION = "id, instance, host, pid, lanes, software, tzdata, epoch, state, opened_at,"
            + " renewed_at, lease_until, ended_at";

    private Rows() {}

    /** The columns of a list, each under a table's short name. */
    static String of(String table, String columns) {
        return table + "." + columns.replace(", ", ", " + table + ".");
    }

    static JobKey jobKey(ResultSet row) throws SQLException {
        return new JobKey(row.getString("namespace"), row.getString("name"));
    }

    static JobRow job(ResultSet row) throws SQLException {
        return new JobRow(
                row.getLong("id"),
                jobKey(row),
                row.getInt("version"),
                row.getString("source"),
                instant(row, "cursor_at"),
                optionalInstant(row, "next_at"),
                row.getInt("used"),
                row.getInt("cap"),
                row.getInt("waiting"),
                afterEnd(row));
    }

    private static Optional<AfterEnd> afterEnd(ResultSet row) throws SQLException {
        Optional<Instant> due = optionalInstant(row, "end_due_at");
        long run = row.getLong("end_run");
        Optional<Long> awaited = row.wasNull() ? Optional.empty() : Optional.of(run);
        return due.isEmpty() && awaited.isEmpty() ? Optional.empty() : Optional.of(new AfterEnd(due, awaited));
    }

    static Optional<JobAdvance.LastEnd> lastEnd(ResultSet row) throws SQLException {
        long run = row.getLong("last_run");
        return row.wasNull()
                ? Optional.empty()
                : Optional.of(new JobAdvance.LastEnd(
                        run, Outcome.valueOf(row.getString("last_outcome")), instant(row, "last_ended_at")));
    }

    static RunRow.Owed owed(ResultSet row) throws SQLException {
        return new RunRow.Owed(
                row.getLong("job_id"),
                instant(row, "planned_at"),
                row.getString("slot"),
                Origin.valueOf(row.getString("origin")),
                LocalDateTime.parse(row.getString("nominal")),
                row.getString("zone"),
                optionalText(row, "note"));
    }

    static RunRow run(ResultSet row) throws SQLException {
        return new RunRow(
                row.getLong("id"),
                owed(row),
                row.getInt("version"),
                RunState.valueOf(row.getString("state")),
                row.getString("lane"),
                row.getInt("priority"),
                optionalText(row, "handler"),
                instant(row, "ready_at"),
                lease(row),
                Json.attempts(row.getString("attempts")),
                row.getInt("attempt"),
                optionalText(row, "payload"));
    }

    private static Optional<RunRow.Lease> lease(ResultSet row) throws SQLException {
        Optional<UUID> session = optionalUuid(row, "session_id");
        return session.isEmpty()
                ? Optional.empty()
                : Optional.of(new RunRow.Lease(session.get(), row.getLong("fence"), instant(row, "leased_at")));
    }

    static SessionRow session(ResultSet row) throws SQLException {
        return new SessionRow(
                row.getObject("id", UUID.class),
                row.getString("instance"),
                row.getString("host"),
                row.getLong("pid"),
                List.of(row.getString("lanes").split(",")),
                row.getString("software"),
                row.getString("tzdata"),
                row.getLong("epoch"),
                SessionRow.State.valueOf(row.getString("state")),
                instant(row, "opened_at"),
                instant(row, "renewed_at"),
                instant(row, "lease_until"),
                optionalInstant(row, "ended_at"));
    }
}
