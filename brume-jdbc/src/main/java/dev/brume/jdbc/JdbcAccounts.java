package dev.brume.jdbc;

import dev.brume.Attempt;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import dev.brume.history.JobRow;
import dev.brume.history.Span;
import dev.brume.history.Timeframe;
import java.sql.SQLException;
import java.time.Duration;
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

    JdbcAccounts(
            Statements sql, Dialect dialect, VersionReader versions, Timeframe frame, Consumer<JobAccount> receiver) {
        this.sql = sql;
        this.dialect = dialect;
        this.versions = versions;
        this.frame = frame;
        this.receiver = receiver;
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
                .and("(dropped_at is null or dropped_at >= ?)", Optional.of(frame.from()))
                .and("namespace = ?", frame.job().map(JobName::namespace))
                .and("name = ?", frame.job().map(JobName::name));
        return sql.query(
                "select " + Rows.JOB + " from brume_job where 1 = 1" + query + " order by id limit ?",
                Rows::job,
                query.valuesAnd(PAGE));
    }

    private void readPage(List<JobRow> page) {
        long first = page.get(0).id();
        long last = page.get(page.size() - 1).id();
        Map<Long, List<JobAccount.Version>> definitions = versions(page, first, last);
        Map<Long, Instant> keptFrom = keptFrom(first, last);
        Map<Long, List<Span>> spans = spans(first, last);
        Map<Long, List<JobAccount.Line>> live = live(first, last);
        Map<Long, JobRow> waiting = new TreeMap<>();
        page.forEach(row -> waiting.put(row.id(), row));
        List<JobAccount.Line> lines = new ArrayList<>();
        long[] current = {-1};
        Consumer<Long> finish = id -> {
            JobRow row = waiting.remove(id);
            if (row != null) {
                List<JobAccount.Line> all = new ArrayList<>(live.getOrDefault(id, List.of()));
                all.addAll(lines);
                all.sort(Comparator.comparing(JobAccount.Line::planned));
                receiver.accept(new JobAccount(
                        id,
                        row.name(),
                        row.dropped(),
                        definitions.getOrDefault(id, List.of()),
                        Objects.requireNonNull(keptFrom.get(id), "a job that is gone"),
                        row.cursor(),
                        all,
                        spans.getOrDefault(id, List.of())));
            }
            lines.clear();
        };
        sql.each(
                "select job_id, run_id, nullif(slot, ''), nullif(origin, 'SCHEDULE'), nullif(outcome, 'SUCCEEDED'), reason,"
                        + " instance, earlier, "
                        + dialect.micros("planned_at") + ", " + dialect.micros("started_at") + ", "
                        + dialect.micros("ended_at")
                        + " from brume_ledger where planned_at >= ? and planned_at < ? and job_id between ? and ?"
                        + " order by job_id, planned_at",
                row -> {
                    long job = row.number(1);
                    if (job != current[0]) {
                        finish.accept(current[0]);
                        current[0] = job;
                    }
                    lines.add(line(row));
                },
                frame.from(),
                frame.until(),
                first,
                last);
        finish.accept(current[0]);
        List.copyOf(waiting.keySet()).forEach(finish);
    }

    private Map<Long, Instant> keptFrom(long first, long last) {
        Map<Long, Instant> kept = new HashMap<>();
        sql.query("""
                select j.id, case when k.kept_from > a.kept_from then k.kept_from else a.kept_from end as kept
                from brume_job j
                join brume_keep a on a.job_id = 0
                left join brume_keep k on k.job_id = j.id
                where j.id between ? and ?""", row -> kept.put(row.number("id"), row.instant("kept")), first, last);
        return kept;
    }

    /** There may be a million rows: columns go by their places, and what is usual comes as null. */
    private static JobAccount.Line line(Row row) throws SQLException {
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
                outcome == Outcome.LOST || JobAccount.Line.wasTakenOver(earlier),
                row.optionalText(7));
    }

    private Map<Long, List<JobAccount.Line>> live(long first, long last) {
        Map<Long, List<JobAccount.Line>> live = new HashMap<>();
        sql.query(
                        "select " + Rows.RUN
                                + " from brume_run where planned_at >= ? and planned_at < ? and job_id between ? and ?",
                        Rows::run,
                        frame.from(),
                        frame.until(),
                        first,
                        last)
                .forEach(run -> live.computeIfAbsent(run.owed().job(), job -> new ArrayList<>())
                        .add(JobAccount.Line.live(run)));
        return live;
    }

    private Map<Long, List<Span>> spans(long first, long last) {
        Map<Long, List<Span>> spans = new HashMap<>();
        sql.query(
                        "select * from brume_span where until_at > ? and from_at < ? and job_id between ? and ? order by from_at",
                        JdbcHistory::plainSpan,
                        frame.from(),
                        frame.until(),
                        first,
                        last)
                .forEach(span -> spans.computeIfAbsent(span.job(), job -> new ArrayList<>())
                        .add(span));
        return spans;
    }

    /** Those that were in force at some time of the period: the last before it, and all since. */
    private Map<Long, List<JobAccount.Version>> versions(List<JobRow> page, long first, long last) {
        record Read(long job, int number, Instant after, VersionReader.Stored stored) {}
        Map<Long, JobName> keys = new HashMap<>();
        page.forEach(row -> keys.put(row.id(), row.name()));
        List<Read> read = sql
                .query(
                        "select v.job_id, v.number, v.defined_at, j.namespace, j.name, "
                                + Rows.of("v", VersionReader.COLUMNS)
                                + " from brume_definition v join brume_job j on j.id = v.job_id where v.job_id between ? and ?"
                                + " and (v.defined_at >= ? or v.number = (select max(x.number) from brume_definition x"
                                + " where x.job_id = v.job_id and x.defined_at < ?)) order by v.job_id, v.number",
                        row -> new Read(
                                row.number("job_id"),
                                row.integer("number"),
                                row.instant("defined_at"),
                                VersionReader.Stored.of(row)),
                        first,
                        last,
                        frame.from(),
                        frame.from())
                .stream()
                .filter(version -> keys.containsKey(version.job))
                .toList();
        List<Job> jobs = versions.read(sql, read.stream().map(Read::stored).toList());
        Map<Long, List<JobAccount.Version>> found = new HashMap<>();
        for (int i = 0; i < read.size(); i++) {
            Read version = read.get(i);
            found.computeIfAbsent(version.job, job -> new ArrayList<>())
                    .add(new JobAccount.Version(version.number, jobs.get(i), version.after));
        }
        return found;
    }
}
