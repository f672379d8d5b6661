package dev.brume.jdbc;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.JobFilter;
import dev.brume.history.JobOrder;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.LastEnd;
import dev.brume.history.NewestRuns;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;

/**
 * Finds jobs. The database narrows down, the definitions decide: they are read a page at a time,
 * so that the time goes by what is shown.
 */
final class JobSearch {
    private static final int PAGE = 1000;
    private static final String FIELDS = Rows.of("j", Rows.JOB) + ", v.definition, v.pins, v.tzdata, v.defined_at";
    private static final String COLUMNS = "select " + FIELDS + " from ";
    private static final String VERSIONS = " j join brume_definition v on v.job_id = j.id and v.number = j.version";
    private static final String JOBS = COLUMNS + "brume_job" + VERSIONS + " where j.live_key is not null";
    private static final String BY_NAME = " order by j.live_key";

    /** As {@link JobRow#nextOccurrence} has it. */
    private static final String NEXT = "case when j.paused <> 0 or j.turn_at = j.next_at then null else j.next_at end";

    private static final String BY_NEXT =
            " order by case when " + NEXT + " is null then 1 else 0 end, " + NEXT + ", j.live_key";

    /** All that is told of one job, at once: a page of them is not, since a database may go through whole tables for it. */
    private static final String ONE = "select " + FIELDS
            + ", r.state as newest_state, n.outcome as newest_outcome,"
            + " coalesce(n.ended_at, n.recorded_at) as newest_at, e.outcome as before_outcome,"
            + " coalesce(e.ended_at, e.recorded_at) as before_at from brume_job" + VERSIONS
            + " left join brume_run r on r.id = j.newest_run left join brume_ledger n on n.run_id = j.newest_run"
            + " left join brume_ledger e on e.run_id = j.ended_run where j.live_key = ?";

    private final JdbcStore store;

    JobSearch(JdbcStore store) {
        this.store = store;
    }

    List<JobView> all() {
        return store.read(sql -> jobs(sql, JOBS + BY_NAME));
    }

    List<JobView> watched() {
        return store.read(sql -> jobs(sql, JOBS + " and j.watched is not null" + BY_NAME));
    }

    Optional<JobView> job(JobName key) {
        return store.read(sql -> sql.first(ONE, One::of, Rows.liveKey(key)).map(one -> one.view(sql, store)));
    }

    /**
     * {@return the jobs that have a name or had it when they were dropped, by id} Found by the key of live ones, which dropped ones have none of.
     */
    static List<Long> everNamed(Statements sql, JobName key) {
        return sql.query(
                "select id from brume_job where live_key = ?"
                        + " union all select id from brume_job where live_key is null and namespace = ? and name = ?",
                row -> row.number("id"),
                Rows.liveKey(key),
                key.namespace(),
                key.name());
    }

    /** {@return the jobs that have one of some names or had it when they were dropped, by id} */
    static List<Long> everNamed(Statements sql, Collection<JobName> keys) {
        if (keys.size() == 1) {
            return everNamed(sql, keys.iterator().next());
        }
        List<Long> ids = new ArrayList<>(sql.in(
                "select id from brume_job where live_key in ",
                keys.stream().map(Rows::liveKey).toList(),
                "",
                row -> row.number("id")));
        ids.addAll(sql.in(
                "select id from brume_job where live_key is null and concat(namespace, '/', name) in ",
                keys.stream().map(Rows::liveKey).toList(),
                "",
                row -> row.number("id")));
        return ids;
    }

    List<JobView> find(JobFilter filter) {
        Predicate<JobView> wanted = filter.test();
        List<JobView> found = new ArrayList<>();
        JobFilter rest = filter;
        int page = Math.min(PAGE, filter.limit());
        List<JobView> read;
        do {
            read = page(rest, page);
            read.stream()
                    .filter(wanted)
                    .limit((long) filter.limit() - found.size())
                    .forEach(found::add);
            rest = read.isEmpty() ? rest : rest.after(read.get(read.size() - 1).name());
        } while (read.size() == page && found.size() < filter.limit());
        return found;
    }

    long count() {
        return store.read(sql -> sql.query(
                        "select count(*) as jobs from brume_job where live_key is not null", row -> row.number("jobs"))
                .get(0));
    }

    private List<JobView> page(JobFilter filter, int size) {
        Query query = new Query()
                .and("j.name like ? escape '!'", filter.name().map(JobSearch::like))
                .and("v.definition like ? escape '!'", filter.tag().map(tag -> like("*\"" + tag + "\"*")))
                .and(
                        "j.id in (select f.job_id from brume_follow_up f where f.target = ?)",
                        filter.followedBy().map(Rows::liveKey));
        if (filter.failing()) {
            query.and("coalesce(" + outcomeOf("j.newest_run") + ", " + outcomeOf("j.ended_run")
                    + ") not in ('SUCCEEDED', 'SKIPPED')");
        }
        if (filter.paused()) {
            query.and("j.paused <> 0");
        }
        if (!filter.namespaces().isEmpty()) {
            String name = filter.name().orElse("").replaceFirst("\\*.*", "");
            // In the order of bytes the tilde comes after all that a name may have.
            query.either(
                    "(j.live_key >= ? and j.live_key < ?)",
                    filter.namespaces().stream()
                            .map(own -> List.<Object>of(own + "/" + name, own + "/" + name + "~"))
                            .toList());
        }
        filter.after().ifPresent(after -> goOnBehind(after, filter.order(), query));
        String order = order(filter);
        // Definitions are read of the page alone, unless they have a say in what is on it.
        String page = filter.tag().isPresent()
                ? JOBS + query + order + " limit ?"
                : COLUMNS + "(select j.* from brume_job j where j.live_key is not null" + query + order + " limit ?)"
                        + VERSIONS + order;
        return store.read(sql -> jobs(sql, page, query.valuesAnd(size)));
    }

    private static String order(JobFilter filter) {
        return filter.order() == JobOrder.NAME ? BY_NAME : BY_NEXT;
    }

    private void goOnBehind(JobName after, JobOrder order, Query query) {
        String key = Rows.liveKey(after);
        if (order == JobOrder.NAME) {
            query.and("j.live_key > ?", key);
            return;
        }
        Optional<Instant> next =
                job(after).orElseThrow(() -> JobFilter.unknown(after)).row().nextOccurrence();
        if (next.isPresent()) {
            query.and(
                    "(" + NEXT + " > ? or " + NEXT + " = ? and j.live_key > ? or " + NEXT + " is null)",
                    next.get(),
                    next.get(),
                    key);
        } else {
            query.and(NEXT + " is null and j.live_key > ?", key);
        }
    }

    private static String outcomeOf(String run) {
        return "(select l.outcome from brume_ledger l where l.run_id = " + run + ")";
    }

    private static String like(String pattern) {
        return pattern.replace("!", "!!").replace("%", "!%").replace("_", "!_").replace('*', '%');
    }

    private record Read(JobRow row, VersionReader.Stored version, Instant definedAt) {
        static Read of(Row row) throws SQLException {
            return new Read(Rows.job(row), VersionReader.Stored.of(row), row.instant("defined_at"));
        }
    }

    /** A job by itself, and how its newest runs stand. */
    private record One(Read read, Optional<RunState> newest, Optional<LastEnd> last) {
        static One of(Row row) throws SQLException {
            Read read = Read.of(row);
            NewestRuns runs = read.row.runs();
            Optional<LastEnd> newest = end(row, runs.newest(), "newest");
            return new One(
                    read,
                    row.optionalText("newest_state").map(RunState::valueOf),
                    newest.isPresent() ? newest : end(row, runs.ended(), "before"));
        }

        private static Optional<LastEnd> end(Row row, Optional<Long> run, String which) throws SQLException {
            Optional<String> outcome = row.optionalText(which + "_outcome");
            return run.isEmpty() || outcome.isEmpty()
                    ? Optional.empty()
                    : Optional.of(new LastEnd(run.get(), Outcome.valueOf(outcome.get()), row.instant(which + "_at")));
        }

        JobView view(Statements sql, JdbcStore store) {
            int waiting = newest.filter(state -> state == RunState.WAITING).isPresent() ? 1 : 0;
            JobRow counted = read.row.runs().crowded()
                    ? new JobPlaces(sql, store.dialect())
                            .count(List.of(read.row))
                            .get(0)
                    : read.row.counted(newest.isPresent() ? 1 - waiting : 0, waiting);
            Job job = store.versions().read(sql, List.of(read.version)).get(0);
            return new JobView(counted, job, read.definedAt, last);
        }
    }

    private List<JobView> jobs(Statements sql, String query, Object... values) {
        List<Read> read = sql.query(query, Read::of, values);
        List<JobRow> rows = new JobPlaces(sql, store.dialect())
                .count(read.stream().map(Read::row).toList());
        Map<Long, LastEnd> ends = ends(sql, rows);
        List<Job> jobs =
                store.versions().read(sql, read.stream().map(Read::version).toList());
        List<JobView> views = new ArrayList<>();
        for (int i = 0; i < rows.size(); i++) {
            JobRow row = rows.get(i);
            Optional<LastEnd> last = row.runs()
                    .newest()
                    .map(ends::get)
                    .or(() -> row.runs().ended().map(ends::get));
            views.add(new JobView(row, jobs.get(i), read.get(i).definedAt, last));
        }
        return views;
    }

    /** Reads how runs that jobs name have ended, by number; those that are live, or no longer kept, are left out. */
    private static Map<Long, LastEnd> ends(Statements sql, List<JobRow> rows) {
        Set<Long> runs = new TreeSet<>();
        rows.forEach(row -> {
            row.runs().newest().ifPresent(runs::add);
            row.runs().ended().ifPresent(runs::add);
        });
        Map<Long, LastEnd> ends = new HashMap<>();
        sql.in(
                        "select run_id, outcome, coalesce(ended_at, recorded_at) as at from brume_ledger where run_id in ",
                        runs,
                        "",
                        row -> new LastEnd(
                                row.number("run_id"), Outcome.valueOf(row.text("outcome")), row.instant("at")))
                .forEach(end -> ends.put(end.run(), end));
        return ends;
    }
}
