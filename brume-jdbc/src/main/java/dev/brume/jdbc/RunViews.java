package dev.brume.jdbc;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.Progress;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/** Makes what is shown of runs, of rows that {@link #LIVE} and {@link #ENDED} select. */
final class RunViews {
    static final String LIVE = "select j.namespace, j.name, " + Rows.of("r", Rows.RUN)
            + ", r.progress, r.message, s.instance from brume_run r join brume_job j on j.id = r.job_id"
            + " left join brume_session s on s.id = r.session_id where 1 = 1";
    static final String ENDED = endedOf("brume_ledger") + " where 1 = 1";

    private RunViews() {}

    /** {@return what selects ended runs from the ledger, or from some lines of it that another query selects} */
    static String endedOf(String lines) {
        return "select j.namespace, j.name, l.*, c.payload, c.result, c.error, c.errors from " + lines
                + " l join brume_job j on j.id = l.job_id left join brume_content c on c.run_id = l.run_id"
                + " and c.planned_at = l.planned_at";
    }

    static RunView live(Row row) throws SQLException {
        RunRow run = Rows.run(row);
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        String instance = row.text("instance");
        run.lease()
                .ifPresent(lease -> attempts.add(Attempt.begun(
                        run.attempt(),
                        instance == null ? "unknown" : instance,
                        lease.session(),
                        lease.fence(),
                        lease.since())));
        return new RunView(
                run.id(),
                Rows.jobKey(row),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                Optional.of(run.state()),
                progress(row),
                Optional.empty(),
                Optional.empty(),
                attempts,
                run.payloadOnRecord(),
                Optional.empty(),
                Optional.empty(),
                Map.of());
    }

    private static Optional<Progress> progress(Row row) throws SQLException {
        OptionalLong percent = row.optionalNumber("progress");
        return percent.isEmpty()
                ? Optional.empty()
                : Optional.of(new Progress((int) percent.getAsLong(), row.text("message")));
    }

    static RunView ended(Row row) throws SQLException {
        Outcome outcome = Outcome.valueOf(row.text("outcome"));
        List<Attempt> attempts = new ArrayList<>(
                Json.withErrors(Json.attempts(row.optionalText("earlier")), row.optionalText("errors")));
        Optional<UUID> session = row.optionalUuid("session_id");
        if (session.isPresent()) {
            attempts.add(new Attempt(
                    row.integer("attempt"),
                    row.text("instance"),
                    session.get(),
                    row.number("fence"),
                    row.instant("started_at"),
                    row.optionalInstant("ended_at"),
                    Optional.of(endOf(outcome, row.optionalText("reason"))),
                    row.optionalText("error"),
                    row.optionalText("trace")));
        }
        return new RunView(
                row.number("run_id"),
                Rows.jobKey(row),
                Rows.owed(row),
                row.integer("version"),
                row.text("lane"),
                row.instant("ready_at"),
                Optional.empty(),
                Optional.empty(),
                Optional.of(outcome),
                row.optionalText("reason"),
                attempts,
                row.optionalText("payload"),
                row.optionalText("result"),
                row.optionalInstant("recorded_at"),
                Map.of());
    }

    /** The last attempt ended as the run did. */
    private static AttemptEnd endOf(Outcome outcome, Optional<String> reason) {
        return switch (outcome) {
            case SUCCEEDED -> AttemptEnd.SUCCEEDED;
            case FAILED -> AttemptEnd.FAILED;
            case TIMED_OUT -> AttemptEnd.TIMED_OUT;
            case LOST -> AttemptEnd.LOST;
            case CANCELLED, SKIPPED ->
                reason.flatMap(Reason::named)
                        .filter(why -> why == Reason.SUPERSEDED || why == Reason.TURNED_DOWN)
                        .map(why -> AttemptEnd.valueOf(why.name()))
                        .orElse(AttemptEnd.CANCELLED);
        };
    }
}
