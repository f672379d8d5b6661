package dev.brume.jdbc;

import dev.brume.history.HourSums;
import dev.brume.history.IdRanges;
import dev.brume.history.Reach;
import dev.brume.history.RollUp;
import dev.brume.history.SummedHours;
import dev.brume.history.Timeframe;
import dev.brume.spi.RollUpSteps;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.function.BiConsumer;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** The steps of summing up in SQL: a row for each day of a job, with the sums of its hours. */
final class JdbcRollUp implements RollUpSteps {
    private final Statements sql;
    private final Dialect dialect;

    JdbcRollUp(Statements sql, Dialect dialect) {
        this.sql = sql;
        this.dialect = dialect;
    }

    @Override
    public Reach lockReach() {
        return reach(sql, " for update");
    }

    static Reach reach(Statements sql, String lock) {
        return sql.first(
                        "select high_line, open_line from brume_roll_up_head where id = 1" + lock,
                        row -> new Reach(row.number("high_line"), IdRanges.parse(row.text("open_line"))))
                .orElse(Reach.NONE);
    }

    /** Reads the sums of some jobs' days that some hours are in; empty where they cannot be read. */
    static void each(
            Statements sql,
            SummedHours in,
            long first,
            long last,
            BiConsumer<Long, Optional<SortedMap<Instant, HourSums>>> receiver) {
        sql.each(
                "select job_id, day_at, hours from brume_roll_up where day_at >= ? and day_at < ? and job_id between ? and ?",
                row -> receiver.accept(row.number(1), HourSumsText.read(row.instant("day_at"), row.text(3))),
                in.from().truncatedTo(ChronoUnit.DAYS),
                in.until(),
                first,
                last);
    }

    static RollUp of(Statements sql, Timeframe frame) {
        Instant keptFrom = sql.first(
                        "select kept_from from brume_keep where job_id = 0", row -> row.instant("kept_from"))
                .orElseThrow();
        Map<Long, SortedMap<Instant, HourSums>> hours = new HashMap<>();
        SummedHours.of(frame.inSums(), keptFrom)
                .ifPresent(in -> each(
                        sql,
                        in,
                        0,
                        Long.MAX_VALUE,
                        (job, day) -> day.ifPresent(sums -> sums.forEach((hour, ofHour) -> {
                            if (in.holds(hour)) {
                                hours.computeIfAbsent(job, id -> new TreeMap<>())
                                        .put(hour, ofHour);
                            }
                        }))));
        return new RollUp(reach(sql, ""), hours);
    }

    @Override
    public void reach(Reach reach) {
        sql.update(
                "update brume_roll_up_head set high_line = ?, open_line = ? where id = 1",
                reach.high(),
                reach.open().toString());
    }

    @Override
    public List<Line> lines(long beyond, IdRanges open, int limit) {
        return new NumberedRows<>(
                        AccountLines.select(dialect) + " where 1 = 1",
                        "run_id",
                        AccountLines::ofJob,
                        line -> line.line().run())
                .read(sql, beyond, open, limit);
    }

    @Override
    public Map<Day, SortedMap<Instant, HourSums>> read(Collection<Day> days) {
        Map<Instant, LongSummaryStatistics> jobs =
                days.stream().collect(Collectors.groupingBy(Day::begin, Collectors.summarizingLong(Day::job)));
        Set<Day> asked = new HashSet<>(days);
        Map<Day, SortedMap<Instant, HourSums>> found = new HashMap<>();
        record Stored(Day day, String hours) {}
        jobs.forEach((begin, ids) -> sql
                .query(
                        "select job_id, hours from brume_roll_up where day_at = ? and job_id between ? and ?",
                        row -> new Stored(new Day(row.number(1), begin), row.text(2)),
                        begin,
                        ids.getMin(),
                        ids.getMax())
                .stream()
                .filter(stored -> asked.contains(stored.day))
                .forEach(stored -> found.put(
                        stored.day,
                        HourSumsText.read(begin, stored.hours)
                                .orElseThrow(() -> new IllegalStateException(
                                        "the ledger was summed up by a newer version of Brume; 'brume roll-up --anew' with this"
                                                + " one begins again")))));
        return found;
    }

    @Override
    public void write(Map<Day, SortedMap<Instant, HourSums>> days) {
        List<Map.Entry<Day, SortedMap<Instant, HourSums>>> all = List.copyOf(days.entrySet());
        int[] there = sql.batch(
                "update brume_roll_up set hours = ? where day_at = ? and job_id = ?",
                all,
                (parameters, entry) -> parameters.all(
                        HourSumsText.write(entry.getValue()),
                        entry.getKey().begin(),
                        entry.getKey().job()));
        sql.batch(
                "insert into brume_roll_up (day_at, job_id, hours) values (?, ?, ?)",
                IntStream.range(0, there.length)
                        .filter(i -> there[i] == 0)
                        .mapToObj(all::get)
                        .toList(),
                (parameters, entry) -> parameters.all(
                        entry.getKey().begin(), entry.getKey().job(), HourSumsText.write(entry.getValue())));
    }

    @Override
    public int forget() {
        record Kept(long job, Instant from) {}
        int forgotten = 0;
        for (Kept kept : sql.query(
                "select job_id, kept_from from brume_keep", row -> new Kept(row.number(1), row.instant("kept_from")))) {
            Instant day = kept.from.truncatedTo(ChronoUnit.DAYS);
            forgotten += kept.job == 0
                    ? sql.update("delete from brume_roll_up where day_at < ?", day)
                    : sql.update("delete from brume_roll_up where job_id = ? and day_at < ?", kept.job, day);
        }
        return forgotten;
    }

    @Override
    public void clear() {
        sql.update("delete from brume_roll_up");
    }
}
