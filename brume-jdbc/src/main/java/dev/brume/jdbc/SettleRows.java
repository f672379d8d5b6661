package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.Outcome;
import dev.brume.spi.Awaited;
import dev.brume.spi.Settle;
import java.sql.SQLException;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/** Keeps account of which ends have consequences, and who waits for them. */
final class SettleRows {
    private static final String CROWDED_UNAWARES = """
            select distinct r.job_id
            from brume_run r
            join brume_job j on j.id = r.job_id
            where j.crowded = 0
            and (j.newest_run is null or j.newest_run <> r.id)
            order by r.job_id
            limit ?""";
    private static final String WITH_ROOM_AND_WAITING = """
            select r.job_id
            from brume_run r
            join brume_job j on j.id = r.job_id
            where j.paused = 0
            group by r.job_id, j.cap
            having count(case when r.state = 'WAITING' then 1 end) > 0
            and count(case when r.state <> 'WAITING' then 1 end) < j.cap
            order by r.job_id
            limit ?""";

    private final Statements sql;
    private final Dialect dialect;

    SettleRows(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    List<Settle> take(Collection<Long> runs) {
        List<Long> ids = runs.stream().sorted().toList();
        List<Settle> taken = sql.in(
                "select run_id, job_id, version, outcome, ended_at, gates, waited, trace from brume_settle where run_id in ",
                ids,
                " for update skip locked",
                SettleRows::settle);
        sql.batch(
                "delete from brume_settle where run_id = ? and looks = ?",
                taken,
                (parameters, settle) ->
                        parameters.all(settle.run(), settle.end().isPresent() ? 0 : 1));
        return taken;
    }

    private static Optional<Settle.End> end(Row row) throws SQLException {
        Optional<String> outcome = row.optionalText("outcome");
        return outcome.isEmpty()
                ? Optional.empty()
                : Optional.of(new Settle.End(
                        Outcome.valueOf(outcome.get()), row.instant("ended_at"), row.optionalText("trace")));
    }

    static Settle settle(Row row) throws SQLException {
        return new Settle(
                row.number("run_id"),
                row.number("job_id"),
                row.integer("version"),
                end(row),
                row.integer("waited") != 0,
                GateKey.split(row.optionalText("gates")));
    }

    /**
     * Marks live runs without waiting for anyone. A run that another transaction holds locked may be ending in it, and then it is read
     * there as it was before the mark; so its job is told as busy.
     */
    Awaited await(Collection<Long> jobs) {
        Map<Long, Long> unmarked = new HashMap<>();
        Map<Long, Long> marked = new HashMap<>();
        sql.in("select id, job_id, awaited from brume_run where job_id in ", new TreeSet<>(jobs), "", row -> {
            Map<Long, Long> which = row.integer("awaited") == 0 ? unmarked : marked;
            which.put(row.number("id"), row.number("job_id"));
            return row.number("id");
        });
        List<Long> locked = sql.in(
                "select id from brume_run where id in ",
                new TreeSet<>(unmarked.keySet()),
                " for update skip locked",
                row -> row.number("id"));
        sql.batch("update brume_run set awaited = 1 where id = ?", locked, (parameters, run) -> parameters.add(run));
        locked.forEach(run -> marked.put(run, Objects.requireNonNull(unmarked.remove(run))));
        return new Awaited(marked, Set.copyOf(unmarked.values()));
    }

    /**
     * Inserts what is not there. A note that is there may just be taken by someone who waits for a lock of this transaction; they look
     * when they have it, and waiting for them would be a deadlock.
     */
    void lookAgain(Map<Long, Long> jobs) {
        Map<Long, Long> missing = new TreeMap<>(jobs);
        sql.in(
                        "select run_id from brume_settle where looks = 1 and run_id in ",
                        jobs.keySet(),
                        "",
                        row -> row.number("run_id"))
                .forEach(missing::remove);
        missing.forEach((run, job) -> sql.addUnlessThere(
                "insert into brume_settle (run_id, looks, job_id, waited) values (?, 1, ?, 1)" + dialect.unlessThere(),
                run,
                job));
    }

    List<Long> crowdedUnawares(int limit) {
        return sql.query(CROWDED_UNAWARES, row -> row.number(1), limit);
    }

    List<Long> withRoomAndWaiting(int limit) {
        return sql.query(WITH_ROOM_AND_WAITING, row -> row.number(1), limit);
    }
}
