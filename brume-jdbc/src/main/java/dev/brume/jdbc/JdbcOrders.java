package dev.brume.jdbc;

import dev.brume.Allowance;
import dev.brume.GateKey;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.AllowanceRow;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.RunRow;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.OrderSteps;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Supplier;

/** The steps of orders by hand, in SQL that every database understands. */
final class JdbcOrders implements OrderSteps {
    private static final String RUNS = "select " + Rows.RUN + " from brume_run where ";

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;
    private final Consumer<List<LedgerLine>> ledger;

    JdbcOrders(Statements sql, Dialect dialect, Supplier<Instant> now, Consumer<List<LedgerLine>> ledger) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
        this.ledger = ledger;
    }

    @Override
    public Optional<RunRow> find(long run) {
        return sql.first(RUNS + "id = ?", Rows::run, run);
    }

    @Override
    public List<RunRow> ofJob(long job) {
        return sql.query(RUNS + "job_id = ? order by id", Rows::run, job);
    }

    @Override
    public boolean endWaiting(long id, Outcome outcome, Reason reason) {
        Optional<RunRow> found = sql.first(RUNS + "id = ? and session_id is null for update", Rows::run, id);
        if (found.isEmpty()) {
            return false;
        }
        RunRow run = found.get();
        sql.update("delete from brume_run where id = ?", id);
        ledger.accept(List.of(LedgerLine.ofWaiting(run, outcome, reason)));
        sql.update("update brume_wait set until_at = ? where run_id = ? and until_at is null", now.get(), id);
        sql.update(
                """
                insert into brume_settle (run_id, job_id, version, outcome, ended_at, gates, waited)
                values (?, ?, ?, ?, ?, ?, ?)""",
                id,
                run.owed().job(),
                run.version(),
                outcome,
                now.get(),
                GateKey.join(run.gates()),
                run.state() == RunState.WAITING ? 1 : 0);
        return true;
    }

    @Override
    public List<RunRow> tooLate(int limit) {
        return sql.query(
                RUNS + "start_by <= ? and session_id is null order by start_by limit ?", Rows::run, now.get(), limit);
    }

    @Override
    public void askToStop(Collection<Long> runs, StopReason why) {
        for (long run : new TreeSet<>(runs)) {
            sql.addUnlessThere("insert into brume_stop (run_id, why) values (?, ?)" + dialect.unlessThere(), run, why);
        }
    }

    @Override
    public Map<Long, StopReason> askedToStop() {
        Map<Long, StopReason> asked = new HashMap<>();
        sql.query(
                "select run_id, why from brume_stop",
                row -> asked.put(row.number("run_id"), StopReason.valueOf(row.text("why"))));
        return asked;
    }

    @Override
    public void forgetStops(Collection<Long> runs) {
        sql.batch(
                "delete from brume_stop where run_id = ?",
                new TreeSet<>(runs),
                (parameters, run) -> parameters.add(run));
    }

    @Override
    public Set<Instant> havingRuns(long job, Instant from, Instant until) {
        String period = "job_id = ? and planned_at >= ? and planned_at < ?";
        return new HashSet<>(sql.query(
                "select planned_at from brume_run where " + period + " union select planned_at from brume_ledger where "
                        + period + " and outcome <> 'SKIPPED'",
                row -> row.instant("planned_at"),
                job,
                from,
                until,
                job,
                from,
                until));
    }

    @Override
    public List<Pause> pauses() {
        return PauseRows.all(sql);
    }

    @Override
    public void addPause(Pause pause) {
        PauseRows.add(sql, pause);
    }

    @Override
    public int endPauses(Pause.Scope scope, Instant at) {
        return PauseRows.end(sql, scope, at);
    }

    @Override
    public int takeBackPauses(Pause.Scope scope, Optional<Pause.Days> days, Instant at) {
        return PauseRows.takeBack(sql, scope, days, at);
    }

    @Override
    public void mark(Map<Long, PauseMark> jobs) {
        sql.batch(
                "update brume_job set next_at = case when ? = 0 then coalesce(least(next_at, "
                        + dialect.instantPlace() + "), next_at, " + dialect.instantPlace() + ") else "
                        + dialect.instantPlace() + " end, paused = ?, turn_at = ? where id = ?",
                new TreeMap<>(jobs).entrySet(),
                (parameters, job) -> {
                    int state = job.getValue().state().ordinal();
                    Optional<Instant> turn = job.getValue().turnsAt();
                    parameters.all(state, turn, turn, turn, state, turn, job.getKey());
                });
    }

    @Override
    public Optional<Allowance> allowance(String namespace) {
        return sql.first(
                "select body from brume_allowance where namespace = ?",
                row -> Json.allowance(namespace, row.text("body")),
                namespace);
    }

    @Override
    public void allow(String namespace, Optional<Allowance> allowance, String who) {
        sql.update("delete from brume_allowance where namespace = ?", namespace);
        allowance.ifPresent(allowed -> sql.update(
                "insert into brume_allowance (namespace, body, set_at, set_by) values (?, ?, ?, ?)",
                namespace,
                Json.allowance(allowed),
                now.get(),
                who));
    }

    @Override
    public long jobsIn(String namespace) {
        return sql.first(
                        "select count(*) as jobs from brume_job where live_key >= ? and live_key < ?",
                        row -> row.number("jobs"),
                        namespace + "/",
                        namespace + "0")
                .orElseThrow();
    }

    /** {@return the allowances by namespace} */
    static Map<String, AllowanceRow> allowances(Statements sql) {
        Map<String, AllowanceRow> found = new HashMap<>();
        sql.query("select namespace, body, set_at, set_by from brume_allowance", row -> {
            String namespace = row.text("namespace");
            return found.put(
                    namespace,
                    new AllowanceRow(
                            Json.allowance(namespace, row.text("body")), row.instant("set_at"), row.text("set_by")));
        });
        return found;
    }
}
