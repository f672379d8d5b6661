package dev.brume.jdbc;

import dev.brume.RunState;
import dev.brume.history.JobRow;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Counts the places of jobs that live runs take. Under the locks of the jobs no run can be added; one whose end is not committed yet
 * counts.
 *
 * <p>Of a job that is not crowded, the newest run alone is looked up, by its number. All runs of a job are read by an index that also
 * leads through those which an old snapshot elsewhere keeps from being cleaned up.
 */
final class JobPlaces {
    private static final String NEWEST = "select id, job_id, state from brume_run where id in ";
    private static final String NEWEST_AT_ONCE = """
            select r.id, r.job_id, r.state
            from unnest(?::bigint[]) as g(run)
            cross join lateral (
                select id, job_id, state
                from brume_run
                where id = g.run
                offset 0
            ) r""";
    private static final String ALL = "select id, job_id, state from brume_run where job_id in ";
    private static final String ALL_AT_ONCE = """
            select r.id, r.job_id, r.state
            from unnest(?::bigint[]) as g(job)
            cross join lateral (
                select id, job_id, state
                from brume_run
                where job_id = g.job
                offset 0
            ) r""";

    private final Statements sql;
    private final Dialect dialect;

    JobPlaces(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    /** Returns the rows in their order, counted. */
    List<JobRow> count(List<JobRow> rows) {
        List<Long> newest = rows.stream()
                .filter(row -> !row.runs().crowded())
                .map(row -> row.runs().newest())
                .flatMap(Optional::stream)
                .toList();
        List<Long> crowded = rows.stream()
                .filter(row -> row.runs().crowded())
                .map(JobRow::id)
                .toList();
        Map<Long, Live> live = new HashMap<>();
        read(newest, NEWEST, NEWEST_AT_ONCE, live);
        read(crowded, ALL, ALL_AT_ONCE, live);
        return rows.stream()
                .map(row -> {
                    Live own = live.getOrDefault(row.id(), new Live());
                    return row.counted(own.used, own.waiting);
                })
                .toList();
    }

    private static final class Live {
        private int used;
        private int waiting;
    }

    private void read(Collection<Long> keys, String query, String atOnce, Map<Long, Live> into) {
        if (keys.isEmpty()) {
            return;
        }
        Statements.Mapper<Live> count = row -> {
            Live live = into.computeIfAbsent(row.number("job_id"), job -> new Live());
            if (RunState.valueOf(row.text("state")) == RunState.WAITING) {
                live.waiting++;
            } else {
                live.used++;
            }
            return live;
        };
        // The database plans anew for each array that it is given, which one key is not worth.
        if (dialect.takesArrays() && keys.size() > 1) {
            sql.query(atOnce, count, sql.array("int8", keys.toArray()));
        } else {
            sql.in(query, keys, "", count);
        }
    }
}
