package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.Rate;
import dev.brume.history.Gate;
import dev.brume.history.RunRow;
import dev.brume.history.Starts;
import dev.brume.spi.GateSteps;
import dev.brume.spi.WaitingRun;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/** The steps on gates in SQL. Each gate is one row; whoever waits at one is a row of its queue. */
final class JdbcGates implements GateSteps {
    private static final String NEW = "kind, name, cap, used";
    private static final String COLUMNS = NEW + ", starts, per_seconds, begun, opens_at";
    private static final String WAITING = "id, job_id, priority, planned_at, gates";

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;

    JdbcGates(Statements sql, Dialect dialect, Supplier<Instant> now) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
    }

    static GateKey key(Row row) throws SQLException {
        return new GateKey(GateKey.Kind.valueOf(row.text("kind")), row.text("name"));
    }

    private static Gate gate(Row row) throws SQLException {
        OptionalLong starts = row.optionalNumber("starts");
        Optional<Rate> rate = starts.isEmpty()
                ? Optional.empty()
                : Optional.of(new Rate((int) starts.getAsLong(), Duration.ofSeconds(row.integer("per_seconds"))));
        return new Gate(
                key(row),
                row.integer("cap"),
                row.integer("used"),
                rate,
                row.optionalText("begun").map(Starts::parse).orElse(Starts.NONE),
                row.optionalInstant("opens_at"));
    }

    private static WaitingRun held(Row row) throws SQLException {
        return new WaitingRun(
                row.number("id"),
                row.number("job_id"),
                row.integer("priority"),
                row.instant("planned_at"),
                GateKey.split(row.optionalText("gates")));
    }

    @Override
    public void add(Map<GateKey, Integer> caps) {
        sql.batch(
                "insert into brume_gate (" + NEW + ") values (?, ?, ?, 0)",
                caps.entrySet(),
                (parameters, gate) ->
                        parameters.all(gate.getKey().kind(), gate.getKey().name(), gate.getValue()));
    }

    @Override
    public void open(Collection<GateKey> keys) {
        for (GateKey key : new TreeSet<>(keys)) {
            sql.addUnlessThere(
                    "insert into brume_gate (" + NEW + ") values (?, ?, 1, 0)" + dialect.unlessThere(),
                    key.kind(),
                    key.name());
        }
    }

    @Override
    public int closeIdle(int limit) {
        List<String> idle = sql.query(
                "select name from brume_gate where kind = 'ONE_OFF' and used = 0 and not exists (select 1"
                        + " from brume_gate_queue q where q.kind = 'ONE_OFF' and q.name = brume_gate.name) order by name limit ?",
                row -> row.text(1),
                limit);
        List<String> locked = sql.in(
                "select name from brume_gate where kind = 'ONE_OFF' and used = 0 and name in ",
                idle,
                " order by name for update skip locked",
                row -> row.text(1));
        // Whoever queues at a gate has it locked, so nobody can come from here on.
        List<String> queued = sql.in(
                "select name from brume_gate_queue where kind = 'ONE_OFF' and name in ",
                locked,
                "",
                row -> row.text(1));
        List<String> gone =
                locked.stream().filter(name -> !queued.contains(name)).toList();
        sql.batch("delete from brume_gate where kind = 'ONE_OFF' and name = ?", gone, Statements.Parameters::add);
        return gone.size();
    }

    @Override
    public void resize(Map<GateKey, Integer> caps) {
        Instant at = now.get();
        sql.batch(
                "insert into brume_past_gate (kind, name, cap, until_at) values (?, ?, ?, ?)",
                lock(caps.keySet()).values(),
                (parameters, gate) ->
                        parameters.all(gate.key().kind(), gate.key().name(), gate.cap(), at));
        sql.batch(
                "update brume_gate set cap = ? where kind = ? and name = ?",
                new TreeMap<>(caps).entrySet(),
                (parameters, gate) -> parameters.all(
                        gate.getValue(), gate.getKey().kind(), gate.getKey().name()));
    }

    @Override
    public List<Gate> all() {
        return sql.query("select " + COLUMNS + " from brume_gate order by kind, name", JdbcGates::gate);
    }

    /** One by one, in order: a list in one statement may be locked in any. */
    @Override
    public Map<GateKey, Gate> lock(Collection<GateKey> keys) {
        Map<GateKey, Gate> locked = new TreeMap<>();
        for (GateKey key : new TreeSet<>(keys)) {
            sql.first(
                            "select " + COLUMNS + " from brume_gate where kind = ? and name = ? for update",
                            JdbcGates::gate,
                            key.kind(),
                            key.name())
                    .ifPresent(gate -> locked.put(key, gate));
        }
        return locked;
    }

    @Override
    public void write(Collection<Gate> gates) {
        Map<Boolean, List<Gate>> rated = gates.stream()
                .collect(Collectors.partitioningBy(gate -> gate.rate().isPresent()));
        sql.batch(
                "update brume_gate set used = ? where kind = ? and name = ?",
                rated.getOrDefault(false, List.of()),
                (parameters, gate) -> parameters.all(
                        gate.used(), gate.key().kind(), gate.key().name()));
        sql.batch(
                "update brume_gate set used = ?, begun = ?, opens_at = ? where kind = ? and name = ?",
                rated.getOrDefault(true, List.of()),
                (parameters, gate) -> parameters.all(
                        gate.used(),
                        gate.starts().toString(),
                        gate.opensAt(),
                        gate.key().kind(),
                        gate.key().name()));
    }

    @Override
    public void rate(Map<GateKey, Optional<Rate>> rates) {
        sql.batch(
                "update brume_gate set starts = ?, per_seconds = ?, begun = null, opens_at = null where kind = ? and name = ?",
                new TreeMap<>(rates).entrySet(),
                (parameters, gate) -> parameters.all(
                        gate.getValue().map(Rate::starts),
                        gate.getValue().map(rate -> (int) rate.per().toSeconds()),
                        gate.getKey().kind(),
                        gate.getKey().name()));
    }

    @Override
    public List<GateKey> opened(Instant by, int limit) {
        return sql.query(
                "select kind, name from brume_gate where opens_at <= ? order by opens_at limit ?",
                JdbcGates::key,
                by,
                limit);
    }

    private record Place(RunRow run, GateKey gate) {}

    @Override
    public void queue(List<RunRow> held) {
        List<Place> places = new ArrayList<>();
        held.forEach(run -> run.gates().forEach(gate -> places.add(new Place(run, gate))));
        sql.batch(
                "insert into brume_gate_queue (run_id, kind, name, job_id, priority, planned_at) values (?, ?, ?, ?, ?, ?)",
                places,
                (parameters, place) -> parameters.all(
                        place.run.id(),
                        place.gate.kind(),
                        place.gate.name(),
                        place.run.owed().job(),
                        place.run.priority(),
                        place.run.owed().planned()));
    }

    @Override
    public void unqueue(Collection<Long> runs) {
        sql.batch("delete from brume_gate_queue where run_id = ?", runs, Statements.Parameters::add);
    }

    @Override
    public List<WaitingRun> waitingAt(Collection<GateKey> gates, int perJob) {
        List<WaitingRun> waiting = new ArrayList<>();
        for (GateKey gate : new TreeSet<>(gates)) {
            waiting.addAll(sql.query("""
                    select q.run_id as id, q.job_id, q.priority, q.planned_at, r.gates
                    from (
                        select run_id, job_id, priority, planned_at,
                            row_number() over (partition by job_id order by priority desc, planned_at, run_id) as place
                        from brume_gate_queue
                        where kind = ? and name = ?
                    ) q
                    join brume_run r on r.id = q.run_id
                    where q.place <= ?
                    order by q.priority desc, q.planned_at, q.run_id""", JdbcGates::held, gate.kind(), gate.name(), perJob));
        }
        return waiting;
    }

    @Override
    public List<WaitingRun> waitingOf(Collection<Long> jobs, int perJob) {
        List<WaitingRun> waiting = new ArrayList<>();
        for (long job : new TreeSet<>(jobs)) {
            waiting.addAll(sql.query(
                    "select " + WAITING
                            + " from brume_run where job_id = ? and state = 'WAITING' order by planned_at, slot limit ?",
                    JdbcGates::held,
                    job,
                    perJob));
        }
        return waiting;
    }

    @Override
    public Map<GateKey, Integer> count(Collection<GateKey> gates) {
        Map<GateKey, Integer> counts = new TreeMap<>();
        sql.query("""
                        select gates
                        from brume_run
                        where state <> 'WAITING' and gates is not null
                        union all
                        select gates
                        from brume_settle
                        where gates is not null and waited = 0""", row -> row.text("gates")).stream()
                .flatMap(joined -> GateKey.split(Optional.of(joined)).stream())
                .filter(gates::contains)
                .forEach(gate -> counts.merge(gate, 1, Integer::sum));
        return counts;
    }
}
