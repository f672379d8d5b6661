package dev.brume.jdbc;

import dev.brume.Attempt;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import dev.brume.spi.RollUpSteps;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/** Reads lines of the ledger as far as accounts need them. */
final class AccountLines {
    private AccountLines() {}

    /** There may be a million rows: columns go by their places, and what is usual comes as null. */
    static String select(Dialect dialect) {
        return "select job_id, run_id, nullif(slot, ''), nullif(origin, 'SCHEDULE'), nullif(outcome, 'SUCCEEDED'), reason,"
                + " instance, earlier, "
                + dialect.micros("planned_at") + ", " + dialect.micros("started_at") + ", "
                + dialect.micros("ended_at")
                + ", parent_run from brume_ledger";
    }

    static long job(Row row) throws SQLException {
        return row.number(1);
    }

    static RollUpSteps.Line ofJob(Row row) throws SQLException {
        return new RollUpSteps.Line(job(row), line(row));
    }

    static JobAccount.Line line(Row row) throws SQLException {
        List<Attempt> earlier = Json.attempts(row.optionalText(8));
        Optional<Instant> lastStart = row.instantOfMicros(10);
        Optional<Instant> ended = row.instantOfMicros(11);
        Outcome outcome = row.optionalText(5).map(Outcome::valueOf).orElse(Outcome.SUCCEEDED);
        return new JobAccount.Line(
                row.number(2),
                row.instantOfMicros(9).orElseThrow(),
                row.optionalText(3).orElse(""),
                row.optionalText(4).map(Origin::valueOf).orElse(Origin.SCHEDULE),
                Optional.of(outcome),
                Optional.empty(),
                row.optionalText(6),
                earlier.stream().findFirst().map(Attempt::startedAt).or(() -> lastStart),
                lastStart.flatMap(start -> ended.map(end -> Duration.between(start, end))),
                ended,
                outcome == Outcome.LOST || JobAccount.Line.wasTakenOver(earlier),
                row.optionalText(7),
                row.optionalNumber(12));
    }
}
