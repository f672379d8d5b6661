package dev.brume.jdbc;

import dev.brume.GateKey;
import dev.brume.Outcome;
import dev.brume.history.JobRow;
import dev.brume.spi.Recount;
import dev.brume.spi.Settle;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.function.Function;

/** Keeps account of which places of their jobs the ends of runs give back. */
final class SettleRows {
    private static final String COUNTED = """
            select j.id
            from brume_job j
            left join (
                select job_id, count(case when state <> 'WAITING' then 1 end) as used,
                    count(case when state = 'WAITING' then 1 end) as waiting
                from brume_run
                group by job_id
            ) r on r.job_id = j.id
            left join (
                select job_id, count(case when waited = 0 then 1 end) as ended,
                    count(case when waited <> 0 then 1 end) as gone
                from brume_settle
                group by job_id
            ) s on s.job_id = j.id
            where (j.used <> coalesce(r.used, 0) + coalesce(s.ended, 0)
                or j.waiting <> coalesce(r.waiting, 0) + coalesce(s.gone, 0))""";

    private final Statements sql;

    SettleRows(Statements sql) {
        this.sql = sql;
    }

    List<Settle> take(Collection<Long> runs) {
        List<Long> ids = runs.stream().sorted().toList();
        List<Settle> taken = sql.in(
                "select run_id, job_id, version, outcome, ended_at, gates, waited from brume_settle where run_id in ",
                ids,
                " for update skip locked",
                SettleRows::settle);
        sql.batch(
                "delete from brume_settle where run_id = ?",
                taken,
                (parameters, settle) -> parameters.add(settle.run()));
        return taken;
    }

    static Settle settle(Row row) throws SQLException {
        return new Settle(
                row.number("run_id"),
                row.number("job_id"),
                row.integer("version"),
                Outcome.valueOf(row.text("outcome")),
                row.instant("ended_at"),
                row.integer("waited") != 0,
                GateKey.split(row.optionalText("gates")));
    }

    List<Recount> recount(int limit, Function<List<Long>, Collection<JobRow>> lock) {
        List<Long> suspects = sql.query(COUNTED + " order by j.id limit ?", row -> row.number(1), limit);
        List<Recount> wrong = new ArrayList<>();
        // Counted again under the lock: the first look raced with whoever was changing them.
        for (JobRow job : lock.apply(suspects)) {
            int ended = count("select count(*) from brume_settle where job_id = ? and waited = 0", job.id());
            int used =
                    ended + count("select count(*) from brume_run where job_id = ? and state <> 'WAITING'", job.id());
            int gone = count("select count(*) from brume_settle where job_id = ? and waited <> 0", job.id());
            int waiting =
                    gone + count("select count(*) from brume_run where job_id = ? and state = 'WAITING'", job.id());
            if (used != job.used() || waiting != job.waiting()) {
                wrong.add(new Recount(job, used, waiting));
            }
        }
        return wrong;
    }

    private int count(String query, long job) {
        return sql.first(query, row -> row.integer(1), job).orElseThrow();
    }
}
