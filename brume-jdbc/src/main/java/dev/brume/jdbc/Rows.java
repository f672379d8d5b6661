package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.RunState;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.Needs;
import dev.brume.history.NewestRuns;
import dev.brume.history.PauseMark;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Vitals;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/** Reads the rows that several statements share. */
final class Rows {
    static final String JOB = "id, namespace, name, version, source, cursor_at, next_at, cap, newest_run, ended_run,"
            + " crowded, end_due_at, end_run, dropped_at, paused, turn_at";
    static final String RUN =
            "id, job_id, planned_at, slot, origin, nominal, zone, note, version, state, lane, priority,"
                    + " handler, labels, only_session, ready_at, session_id, fence, leased_at, attempts, attempt, payload, gates,"
                    + " start_by, parent_run, shown_payload, ordered_by, traces";
    static final String SESSION = "id, instance, host, pid, lanes, labels, software, tzdata, epoch, state, opened_at,"
            + " renewed_at, lease_until, ended_at, handlers, ahead_millis, vitals";

    private Rows() {}

    /** The columns of a list, each under a table's short name. */
    static String of(String table, String columns) {
        return table + "." + columns.replace(", ", ", " + table + ".");
    }

    static JobName jobKey(Row row) throws SQLException {
        return new JobName(row.text("namespace"), row.text("name"));
    }

    /** A job's row before its places are counted; see {@link JobPlaces}. */
    static JobRow job(Row row) throws SQLException {
        return new JobRow(
                row.number("id"),
                jobKey(row),
                row.integer("version"),
                row.text("source"),
                row.instant("cursor_at"),
                row.optionalInstant("next_at"),
                /* used= */ 0,
                row.integer("cap"),
                /* waiting= */ 0,
                new NewestRuns(
                        optional(row.optionalNumber("newest_run")),
                        optional(row.optionalNumber("ended_run")),
                        row.integer("crowded") != 0),
                afterEnd(row),
                row.optionalInstant("dropped_at").isPresent(),
                mark(row));
    }

    private static PauseMark mark(Row row) throws SQLException {
        return new PauseMark(PauseMark.State.values()[row.integer("paused")], row.optionalInstant("turn_at"));
    }

    private static Optional<AfterEnd> afterEnd(Row row) throws SQLException {
        Optional<Instant> due = row.optionalInstant("end_due_at");
        Optional<Long> awaited = optional(row.optionalNumber("end_run"));
        return due.isEmpty() && awaited.isEmpty() ? Optional.empty() : Optional.of(new AfterEnd(due, awaited));
    }

    static Optional<Long> optional(OptionalLong number) {
        return number.isPresent() ? Optional.of(number.getAsLong()) : Optional.empty();
    }

    static RunRow.Owed owed(Row row) throws SQLException {
        return new RunRow.Owed(
                row.number("job_id"),
                row.instant("planned_at"),
                row.text("slot"),
                Origin.valueOf(row.text("origin")),
                LocalDateTime.parse(row.text("nominal")),
                row.text("zone"),
                row.optionalText("note"),
                parent(row),
                row.optionalText("ordered_by"));
    }

    static Optional<Long> parent(Row row) throws SQLException {
        return optional(row.optionalNumber("parent_run"));
    }

    /** Labels stand between strokes, so that each can be struck out by itself. */
    static Optional<String> joinLabels(List<String> labels) {
        return labels.isEmpty() ? Optional.empty() : Optional.of("/" + String.join("//", labels) + "/");
    }

    private static List<String> labels(Optional<String> joined) {
        return joined.filter(text -> !text.isEmpty())
                .map(text -> List.of(text.substring(1, text.length() - 1).split("//")))
                .orElse(List.of());
    }

    static RunRow run(Row row) throws SQLException {
        return new RunRow(
                row.number("id"),
                owed(row),
                row.integer("version"),
                RunState.valueOf(row.text("state")),
                row.text("lane"),
                row.integer("priority"),
                new Needs(
                        row.optionalText("handler"),
                        labels(row.optionalText("labels")),
                        row.optionalUuid("only_session")),
                row.instant("ready_at"),
                lease(row),
                Json.attempts(row.optionalText("attempts")),
                row.integer("attempt"),
                row.optionalText("payload"),
                GateKey.split(row.optionalText("gates")),
                row.optionalInstant("start_by"),
                row.optionalText("shown_payload"),
                row.optionalText("traces"));
    }

    private static Optional<RunRow.Lease> lease(Row row) throws SQLException {
        Optional<UUID> session = row.optionalUuid("session_id");
        return session.isEmpty()
                ? Optional.empty()
                : Optional.of(new RunRow.Lease(session.get(), row.number("fence"), row.instant("leased_at")));
    }

    static SessionRow session(Row row) throws SQLException {
        return new SessionRow(
                row.uuid("id"),
                row.text("instance"),
                row.text("host"),
                row.number("pid"),
                List.of(row.text("lanes").split(",")),
                labels(row.optionalText("labels")),
                row.text("software"),
                row.text("tzdata"),
                row.number("epoch"),
                SessionRow.State.valueOf(row.text("state")),
                row.instant("opened_at"),
                row.instant("renewed_at"),
                row.instant("lease_until"),
                row.optionalInstant("ended_at"),
                row.optionalText("handlers").map(text -> text.isEmpty() ? List.of() : List.of(text.split("\n"))),
                Duration.ofMillis(row.number("ahead_millis")),
                row.optionalText("vitals").flatMap(Vitals::parse));
    }

    static String liveKey(JobName key) {
        return key.namespace() + "/" + key.name();
    }
}
