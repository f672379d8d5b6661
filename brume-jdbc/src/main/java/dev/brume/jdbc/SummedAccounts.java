package dev.brume.jdbc;

import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.Reach;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.Timeframe;
import dev.brume.spi.RollUpSteps;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;

/**
 * What is on record of some jobs, with the plain lines of whole hours in sums: the sums, and all lines that are not in them, because they are not
 * plain, were planned at the edges of the period, or have not been summed up yet.
 */
final class SummedAccounts {
    private final Statements sql;
    private final String select;
    private final SummedHours in;
    private final Reach reach;
    private final long first;
    private final long last;
    private final Map<Long, List<SummedStretch>> sums = new HashMap<>();
    private final Map<Long, List<JobAccount.Line>> lines = new HashMap<>();
    private final Map<Long, Long> others = new HashMap<>();
    private final Map<Long, Long> plain = new HashMap<>();
    private final Set<Long> unusable = new HashSet<>();

    SummedAccounts(Statements sql, Dialect dialect, SummedHours in, Reach reach, long first, long last) {
        this.sql = sql;
        this.select =
                AccountLines.select(dialect) + " where job_id between ? and ? and planned_at >= ? and planned_at < ?";
        this.in = in;
        this.reach = reach;
        this.first = first;
        this.last = last;
        readSums();
        readEdges();
        readUnsummed();
        readOthers();
        count();
    }

    /**
     * Counting lines is much faster than reading them, and shows if some were removed after they had been summed up; counting all together is
     * faster still.
     */
    private void count() {
        String counting = " from brume_ledger where planned_at >= ? and planned_at < ? and job_id between ? and ?";
        Object[] values = {in.from(), in.until(), first, last};
        long expected = plain.values().stream().mapToLong(Long::longValue).sum()
                + lines.keySet().stream().mapToLong(this::found).sum();
        long all = sql.first("select count(*)" + counting, row -> row.number(1), values)
                .orElseThrow();
        if (all != expected) {
            Map<Long, Long> counted = new HashMap<>();
            sql.each(
                    "select job_id, count(*)" + counting + " group by job_id",
                    row -> counted.put(row.number(1), row.number(2)),
                    values);
            Stream.of(counted.keySet(), plain.keySet(), lines.keySet())
                    .flatMap(Set::stream)
                    .filter(job -> counted.getOrDefault(job, 0L) != plain.getOrDefault(job, 0L) + found(job))
                    .forEach(unusable::add);
        }
    }

    private void readSums() {
        JdbcRollUp.each(
                sql,
                in,
                first,
                last,
                (job, some) -> some.ifPresentOrElse(stretches -> add(job, stretches), () -> unusable.add(job)));
    }

    private void add(long job, List<SummedStretch> some) {
        sums.computeIfAbsent(job, id -> new ArrayList<>()).addAll(some);
        for (SummedStretch stretch : some) {
            others.merge(job, stretch.sums().others(), Long::sum);
            plain.merge(job, stretch.sums().plain(), Long::sum);
        }
    }

    private void readEdges() {
        for (Timeframe edge : in.edges()) {
            read(edge, "", List.of(), line -> true);
        }
    }

    private void readUnsummed() {
        Timeframe middle = Timeframe.between(in.from(), in.until());
        read(middle, " and run_id > ?", List.of(reach.high()), line -> in.holds(line.planned()));
        for (IdRanges.Range open : reach.open().ranges()) {
            read(
                    middle,
                    " and run_id between ? and ?",
                    List.of(open.first(), open.last()),
                    line -> in.holds(line.planned()));
        }
    }

    /** A condition that lets no line through that is plain would have to look into what is stored as JSON; this one is wider. */
    private void readOthers() {
        read(
                Timeframe.between(in.from(), in.until()),
                " and (outcome <> 'SUCCEEDED' or origin <> 'SCHEDULE')"
                        + " and (outcome = 'SKIPPED' or origin not in ('SCHEDULE', 'CATCH_UP') or started_at is null)",
                List.of(),
                line -> in.holds(line.planned()) && reach.covers(line.run()) && !line.isPlain());
    }

    private interface Filter {
        boolean has(JobAccount.Line line);
    }

    private void read(Timeframe frame, String and, List<Long> more, Filter filter) {
        List<Object> values = new ArrayList<>(List.of(first, last, frame.from(), frame.until()));
        values.addAll(more);
        sql.each(
                select + and,
                row -> {
                    RollUpSteps.Line line = AccountLines.ofJob(row);
                    if (filter.has(line.line())) {
                        lines.computeIfAbsent(line.job(), id -> new ArrayList<>())
                                .add(line.line());
                    }
                },
                values.toArray());
    }

    /**
     * Tells whether a job is to be had in sums: where not every line was found, such as several for one occurrence, or fewer are there than were
     * summed up, all are read.
     */
    boolean has(long job, Instant keptFrom) {
        return in.areKept(keptFrom) && !unusable.contains(job) && others.getOrDefault(job, 0L) == summedUp(job);
    }

    private long summedUp(long job) {
        return lines(job).stream()
                .filter(line -> in.holds(line.planned()) && reach.covers(line.run()))
                .count();
    }

    private long found(long job) {
        return lines(job).stream()
                .filter(line ->
                        !line.planned().isBefore(in.from()) && line.planned().isBefore(in.until()))
                .count();
    }

    List<JobAccount.Line> lines(long job) {
        return lines.getOrDefault(job, List.of());
    }

    List<SummedStretch> sums(long job) {
        return sums.getOrDefault(job, List.of()).stream()
                .sorted(Comparator.comparing(SummedStretch::from))
                .toList();
    }
}
