package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.places;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.GateKey;
import dev.brume.Outcome;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** Puts runs, and what became of them, on record. */
final class RunRows {
    private static final String INSERT_RUN =
            "insert into brume_run (" + Rows.RUN + ", one_off_key, follow_up) values " + places(30);
    private static final String INSERT_LINE = """
            insert into brume_ledger (run_id, job_id, planned_at, slot, origin, nominal, zone, note, version, lane,
                ready_at, outcome, reason, attempt, instance, session_id, fence, started_at, ended_at, earlier,
                one_off_key, parent_run, follow_up, ordered_by, trace, recorded_at)
            values\s""" + places(26);
    private static final String INSERT_CONTENT =
            "insert into brume_content (run_id, planned_at, payload, result, error, errors) values " + places(6);

    private static final String ADD_OUTPUTS_AT_ONCE = """
            insert into brume_output (run_id, planned_at, attempt, body, bytes, omitted)
            select o.run, timestamptz 'epoch' + o.planned * interval '1 microsecond', o.attempt, o.body, o.bytes, o.omitted
            from unnest(?::bigint[], ?::bigint[], ?::int[], ?::text[], ?::bigint[], ?::bigint[])
                as o(run, planned, attempt, body, bytes, omitted)""";

    private static final Set<AttemptEnd> ENDS_OF_UNWANTED =
            Set.of(AttemptEnd.CANCELLED, AttemptEnd.SUPERSEDED, AttemptEnd.TURNED_DOWN);

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;

    RunRows(Statements sql, Dialect dialect, Supplier<Instant> now) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
    }

    void add(List<RunRow> runs) {
        sql.batch(INSERT_RUN, runs, (parameters, run) -> {
            RunRow.Owed owed = run.owed();
            parameters.all(
                    run.id(),
                    owed.job(),
                    owed.planned(),
                    owed.slot(),
                    owed.origin(),
                    owed.nominal().toString(),
                    owed.zone(),
                    owed.note(),
                    run.version(),
                    run.state(),
                    run.lane(),
                    run.priority(),
                    run.needs().handler(),
                    Rows.joinLabels(run.needs().labels()),
                    run.needs().session(),
                    run.readyAt(),
                    run.lease().map(RunRow.Lease::session),
                    run.lease().map(RunRow.Lease::fence),
                    run.lease().map(RunRow.Lease::since),
                    Json.attempts(run.attempts()),
                    run.attempt(),
                    run.payload(),
                    GateKey.join(run.gates()),
                    run.startBy(),
                    owed.parent(),
                    run.shownPayload(),
                    owed.orderedBy(),
                    run.traces(),
                    owed.oneOffKey(),
                    followUp(owed));
        });
    }

    /** Tells apart what follows one run: each job at most once. */
    private static Optional<String> followUp(RunRow.Owed owed) {
        return owed.parent().map(parent -> Long.toString(owed.job()));
    }

    /** The attempt that ended as the run did: a run that ended while it waited had only earlier ones. */
    private static Optional<Attempt> lastWithTheRun(LedgerLine line) {
        boolean waited = line.outcome() == Outcome.CANCELLED || line.outcome() == Outcome.SKIPPED;
        return line.attempts().stream()
                .reduce((a, b) -> b)
                .filter(last ->
                        !waited || last.end().filter(ENDS_OF_UNWANTED::contains).isPresent());
    }

    void addLines(List<LedgerLine> lines) {
        Instant recorded = now.get();
        sql.batch(INSERT_LINE, lines, (parameters, line) -> {
            RunRow.Owed owed = line.owed();
            Optional<Attempt> last = lastWithTheRun(line);
            parameters.all(
                    line.run(),
                    owed.job(),
                    owed.planned(),
                    owed.slot(),
                    owed.origin(),
                    owed.nominal().toString(),
                    owed.zone(),
                    owed.note(),
                    line.version(),
                    line.lane(),
                    line.readyAt(),
                    line.outcome(),
                    line.reason(),
                    last.map(Attempt::number).orElse(0),
                    last.map(Attempt::instance),
                    last.map(Attempt::session),
                    last.map(Attempt::fence),
                    last.map(Attempt::startedAt),
                    last.flatMap(Attempt::endedAt),
                    Json.attempts(earlier(line).stream()
                            .map(attempt -> attempt.withError(Optional.empty()))
                            .toList()),
                    owed.oneOffKey(),
                    owed.parent(),
                    followUp(owed),
                    owed.orderedBy(),
                    last.flatMap(Attempt::trace),
                    recorded);
        });
        sql.batch(
                INSERT_CONTENT,
                lines.stream().filter(RunRows::hasContent).toList(),
                (parameters, line) -> parameters.all(
                        line.run(),
                        line.owed().planned(),
                        line.payload(),
                        line.result(),
                        lastWithTheRun(line).flatMap(Attempt::error),
                        Json.errors(earlier(line))));
    }

    private static List<Attempt> earlier(LedgerLine line) {
        int last = lastWithTheRun(line).isPresent() ? 1 : 0;
        return line.attempts().subList(0, line.attempts().size() - last);
    }

    private static boolean hasContent(LedgerLine line) {
        return line.payload().isPresent()
                || line.result().isPresent()
                || line.attempts().stream().anyMatch(attempt -> attempt.error().isPresent());
    }

    /** Notes that runs wait for a place from now on. */
    void await(List<Long> waiting) {
        if (!waiting.isEmpty()) {
            Instant since = now.get();
            sql.batch(
                    "insert into brume_wait (run_id, since_at) values (?, ?)",
                    waiting,
                    (parameters, run) -> parameters.all(run, since));
        }
    }

    void addSpans(List<Span> spans) {
        sql.batch(
                """
                insert into brume_span (job_id, from_at, until_at, version, first_at, last_at, occurrences, reason)
                values (?, ?, ?, ?, ?, ?, ?, ?)""",
                spans,
                (parameters, span) -> parameters.all(
                        span.job(),
                        span.from(),
                        span.until(),
                        span.version(),
                        span.first(),
                        span.last(),
                        span.count(),
                        span.reason()));
    }

    /** What an attempt printed; it lies where the line of its run does, by the planned instant. */
    record OutputRow(long run, Instant planned, int attempt, Output output) {
        static Stream<OutputRow> of(RunEnd end, Instant planned) {
            return end.output().stream()
                    .map(printed ->
                            new OutputRow(end.lease().run(), planned, end.last().number(), printed));
        }

        static Stream<OutputRow> of(RunRelease release, Instant planned) {
            return release.output().stream().map(printed -> {
                List<Attempt> attempts = release.attempts();
                int number = attempts.get(attempts.size() - 1).number();
                return new OutputRow(release.lease().run(), planned, number, printed);
            });
        }
    }

    void addOutputs(List<OutputRow> all) {
        if (all.isEmpty()) {
            return;
        }
        if (dialect.takesArrays()) {
            sql.update(
                    ADD_OUTPUTS_AT_ONCE,
                    sql.array("int8", all.stream().map(OutputRow::run).toArray()),
                    sql.array(
                            "int8",
                            all.stream()
                                    .map(each -> PostgresTransaction.micros(each.planned))
                                    .toArray()),
                    sql.array("int4", all.stream().map(OutputRow::attempt).toArray()),
                    sql.array(
                            "text", all.stream().map(each -> each.output.text()).toArray(String[]::new)),
                    sql.array(
                            "int8",
                            all.stream().map(each -> each.output.bytes()).toArray()),
                    sql.array(
                            "int8",
                            all.stream().map(each -> each.output.omitted()).toArray()));
        } else {
            sql.batch(
                    "insert into brume_output (run_id, planned_at, attempt, body, bytes, omitted) values " + places(6),
                    all,
                    (parameters, each) -> parameters.all(
                            each.run,
                            each.planned,
                            each.attempt,
                            each.output.text(),
                            each.output.bytes(),
                            each.output.omitted()));
        }
    }
}
