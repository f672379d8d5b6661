package dev.brume.jdbc;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.JobAccount;
import dev.brume.history.JobRow;
import dev.brume.history.Reach;
import dev.brume.history.Span;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.function.LongConsumer;
import java.util.function.LongPredicate;

/**
 * Reads what is on record of jobs in a period, one job after the other, from one snapshot: a run that moves from the live
 * table to the ledger meanwhile is seen once.
 */
final class JdbcAccounts {
    private static final int PAGE = 10_000;

    private final Statements sql;
    private final Dialect dialect;
    private final VersionReader versions;
    private final Timeframe frame;
    private final Consumer<JobAccount> receiver;
    private final Reach reach;
    private final Optional<SummedHours> hours;

    /** The jobs that it is about, if it is not about all. */
    private final List<Long> named;

    JdbcAccounts(
            Statements sql, Dialect dialect, VersionReader versions, Timeframe frame, Consumer<JobAccount> receiver) {
        this.sql = sql;
        this.dialect = dialect;
        this.versions = versions;
        this.frame = frame;
        this.receiver = receiver;
        this.named = frame.jobs().isEmpty() ? List.of() : JobSearch.everNamed(sql, frame.jobs());
        this.reach = frame.isInSums() ? JdbcRollUp.reach(sql, "") : Reach.NONE;
        this.hours = SummedHours.of(frame, keptFrom()).filter(any -> reach.high() > 0);
    }

    void read() {
        long last = 0;
        List<JobRow> page = page(last);
        while (!page.isEmpty()) {
            last = page.get(page.size() - 1).id();
            readPage(page);
            page = page.size() == PAGE ? page(last) : List.of();
        }
    }

    private List<JobRow> page(long after) {
        Query query = new Query()
                .and("id > ?", Optional.of(after))
                .and("(dropped_at is null or dropped_at >= ?)", Optional.of(frame.from()));
        if (!frame.jobs().isEmpty()) {
            query.in("id", named);
        }
        return sql.query(
                "select " + Rows.JOB + " from brume_job where 1 = 1" + query + " order by id limit ?",
                Rows::job,
                query.valuesAnd(PAGE));
    }

    private void readPage(List<JobRow> page) {
        long first = page.get(0).id();
        long last = page.get(page.size() - 1).id();
        Page read = new Page(
                versions(page, first, last),
                keptFrom(first, last),
                spans(first, last),
                live(first, last),
                hours.map(in -> new SummedAccounts(sql, dialect, in, reach, first, last)));
        Map<Long, JobRow> waiting = new TreeMap<>();
        page.forEach(row -> waiting.put(row.id(), row));
        if (read.summed.isPresent()) {
            page.stream()
                    .filter(row -> read.summed.get().has(row.id(), read.keptFrom(row.id())))
                    .forEach(row -> receiver.accept(read.summed(Objects.requireNonNull(waiting.remove(row.id())))));
            for (long job : List.copyOf(waiting.keySet())) {
                inLines(waiting, read, ofJobs("job_id", job, job), id -> id == job);
            }
        } else {
            inLines(waiting, read, ofJobs("job_id", first, last), id -> true);
        }
    }

    /** Those between two, as far as it is about them. */
    private Query ofJobs(String column, long first, long last) {
        Query query = new Query().and(column + " between ? and ?", first, last);
        return named.isEmpty() || first == last ? query : query.in(column, named);
    }

    private void inLines(Map<Long, JobRow> waiting, Page read, Query jobs, LongPredicate among) {
        List<JobAccount.Line> lines = new ArrayList<>();
        long[] current = {-1};
        LongConsumer finish = id -> {
            JobRow row = waiting.remove(id);
            if (row != null) {
                receiver.accept(read.account(row, lines, List.of()));
            }
            lines.clear();
        };
        sql.each(
                AccountLines.select(dialect) + " where planned_at >= ? and planned_at < ?" + jobs
                        + " order by job_id, planned_at",
                row -> {
                    long job = AccountLines.job(row);
                    if (job != current[0]) {
                        finish.accept(current[0]);
                        current[0] = job;
                    }
                    lines.add(AccountLines.line(row));
                },
                jobs.valuesAfter(frame.from(), frame.until()));
        finish.accept(current[0]);
        waiting.keySet().stream().filter(among::test).toList().forEach(finish::accept);
    }

    /** What was read of some jobs, by their ids. */
    private record Page(
            Map<Long, List<JobAccount.Version>> definitions,
            Map<Long, Instant> keptFrom,
            Map<Long, List<Span>> spans,
            Map<Long, List<JobAccount.Line>> live,
            Optional<SummedAccounts> summed) {

        Instant keptFrom(long id) {
            return Objects.requireNonNull(keptFrom.get(id), "a job that is gone");
        }

        JobAccount summed(JobRow row) {
            return account(row, summed.get().lines(row.id()), summed.get().sums(row.id()));
        }

        JobAccount account(JobRow row, List<JobAccount.Line> ended, List<SummedStretch> sums) {
            List<JobAccount.Line> all = new ArrayList<>(live.getOrDefault(row.id(), List.of()));
            all.addAll(ended);
            all.sort(Comparator.comparing(JobAccount.Line::planned));
            return new JobAccount(
                    row.id(),
                    row.name(),
                    row.dropped(),
                    definitions.getOrDefault(row.id(), List.of()),
                    keptFrom(row.id()),
                    row.cursor(),
                    all,
                    spans.getOrDefault(row.id(), List.of()),
                    sums);
        }
    }

    private Instant keptFrom() {
        return sql.first("select kept_from from brume_keep where job_id = 0", row -> row.instant("kept_from"))
                .orElseThrow();
    }

    private Map<Long, Instant> keptFrom(long first, long last) {
        Map<Long, Instant> kept = new HashMap<>();
        Query jobs = ofJobs("j.id", first, last);
        sql.query("""
                select j.id, case when k.kept_from > a.kept_from then k.kept_from else a.kept_from end as kept
                from brume_job j
                join brume_keep a on a.job_id = 0
                left join brume_keep k on k.job_id = j.id
                where 1 = 1""" + jobs, row -> kept.put(row.number("id"), row.instant("kept")), jobs.values());
        return kept;
    }

    private Map<Long, List<JobAccount.Line>> live(long first, long last) {
        Map<Long, List<JobAccount.Line>> live = new HashMap<>();
        Query jobs = ofJobs("job_id", first, last);
        sql.query(
                        "select " + Rows.RUN + " from brume_run where planned_at >= ? and planned_at < ?" + jobs,
                        Rows::run,
                        jobs.valuesAfter(frame.from(), frame.until()))
                .forEach(run -> live.computeIfAbsent(run.owed().job(), job -> new ArrayList<>())
                        .add(JobAccount.Line.live(run)));
        return live;
    }

    private Map<Long, List<Span>> spans(long first, long last) {
        Map<Long, List<Span>> spans = new HashMap<>();
        Query jobs = ofJobs("job_id", first, last);
        sql.query(
                        "select * from brume_span where until_at > ? and from_at < ?" + jobs + " order by from_at",
                        JdbcHistory::plainSpan,
                        jobs.valuesAfter(frame.from(), frame.until()))
                .forEach(span -> spans.computeIfAbsent(span.job(), job -> new ArrayList<>())
                        .add(span));
        return spans;
    }

    /** Those that were in force at some time of the period: the last before it, and all since. */
    private Map<Long, List<JobAccount.Version>> versions(List<JobRow> page, long first, long last) {
        record Read(long job, int number, Instant after, String source, VersionReader.Stored stored) {}
        Map<Long, JobName> keys = new HashMap<>();
        page.forEach(row -> keys.put(row.id(), row.name()));
        Query jobs = ofJobs("v.job_id", first, last)
                .and(
                        "(v.defined_at >= ? or v.number = (select max(x.number) from brume_definition x"
                                + " where x.job_id = v.job_id and x.defined_at < ?))",
                        frame.from(),
                        frame.from());
        List<Read> read = sql
                .query(
                        "select v.job_id, v.number, v.defined_at, v.source, j.namespace, j.name, "
                                + Rows.of("v", VersionReader.COLUMNS)
                                + " from brume_definition v join brume_job j on j.id = v.job_id where 1 = 1" + jobs
                                + " order by v.job_id, v.number",
                        row -> new Read(
                                row.number("job_id"),
                                row.integer("number"),
                                row.instant("defined_at"),
                                row.text("source"),
                                VersionReader.Stored.of(row)),
                        jobs.values())
                .stream()
                .filter(version -> keys.containsKey(version.job))
                .toList();
        List<Job> defined = versions.read(sql, read.stream().map(Read::stored).toList());
        Map<Long, List<JobAccount.Version>> found = new HashMap<>();
        for (int i = 0; i < read.size(); i++) {
            Read version = read.get(i);
            found.computeIfAbsent(version.job, job -> new ArrayList<>())
                    .add(new JobAccount.Version(version.number, defined.get(i), version.after, version.source));
        }
        return found;
    }
}
