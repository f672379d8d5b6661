package dev.brume.jdbc;

import dev.brume.StoreException;
import dev.brume.history.IdRanges;
import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import dev.brume.history.RollUp;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.Timeframe;
import dev.brume.spi.RollUpSteps;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedMap;
import java.util.function.BiConsumer;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

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

    /** Reads the sums of some jobs, those of whole days or else of hours; empty where they cannot be read. */
    static void each(
            Statements sql,
            SummedHours in,
            long first,
            long last,
            BiConsumer<Long, Optional<List<SummedStretch>>> receiver) {
        List<Instant> days = Stream.iterate(in.from().truncatedTo(ChronoUnit.DAYS), day -> day.plus(1, ChronoUnit.DAYS))
                .takeWhile(day -> day.isBefore(in.until()))
                .filter(day -> !in.holdsDay(day))
                .toList();
        sql.each(
                "select job_id, day_at, whole from brume_roll_up where day_at >= ? and day_at < ? and job_id between ? and ?",
                row -> {
                    Instant day = row.instant("day_at");
                    if (in.holdsDay(day)) {
                        receiver.accept(
                                row.number(1),
                                LineSumsText.day(day, row.text(3))
                                        .map(sums ->
                                                List.of(new SummedStretch(day, day.plus(1, ChronoUnit.DAYS), sums))));
                    }
                },
                in.from().truncatedTo(ChronoUnit.DAYS),
                in.until(),
                first,
                last);
        for (Instant day : days) {
            sql.each(
                    "select job_id, hours from brume_roll_up where day_at = ? and job_id between ? and ?",
                    row -> receiver.accept(
                            row.number(1), LineSumsText.hours(day, row.text(2)).map(hours -> in.of(day, hours))),
                    day,
                    first,
                    last);
        }
    }

    static RollUp of(Statements sql, Timeframe frame) {
        Instant keptFrom = sql.first(
                        "select kept_from from brume_keep where job_id = 0", row -> row.instant("kept_from"))
                .orElseThrow();
        Map<Long, List<SummedStretch>> stretches = new HashMap<>();
        SummedHours.of(frame.inSums(), keptFrom)
                .ifPresent(in -> each(
                        sql,
                        in,
                        0,
                        Long.MAX_VALUE,
                        (job, some) -> some.ifPresent(sums -> stretches
                                .computeIfAbsent(job, id -> new ArrayList<>())
                                .addAll(sums))));
        return new RollUp(reach(sql, ""), stretches);
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
    public Map<Day, SortedMap<Instant, LineSums>> read(Collection<Day> days) {
        Map<Instant, LongSummaryStatistics> jobs =
                days.stream().collect(Collectors.groupingBy(Day::begin, Collectors.summarizingLong(Day::job)));
        Set<Day> asked = new HashSet<>(days);
        Map<Day, SortedMap<Instant, LineSums>> found = new HashMap<>();
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
                        LineSumsText.hours(begin, stored.hours)
                                .orElseThrow(() -> new StoreException(
                                        StoreException.Trouble.SCHEMA,
                                        "the ledger was summed up by a newer version of Brume; 'brume roll-up --anew' with this"
                                                + " one begins again",
                                        null)))));
        return found;
    }

    @Override
    public void write(Map<Day, SortedMap<Instant, LineSums>> days) {
        record Written(Day day, String whole, String hours) {}
        List<Written> all = days.entrySet().stream()
                .map(day -> new Written(
                        day.getKey(),
                        LineSumsText.day(
                                day.getKey().begin(),
                                LineSums.sum(day.getValue().values())),
                        LineSumsText.hours(day.getValue())))
                .toList();
        int[] there = sql.batch(
                "update brume_roll_up set whole = ?, hours = ? where day_at = ? and job_id = ?",
                all,
                (parameters, row) -> parameters.all(row.whole, row.hours, row.day.begin(), row.day.job()));
        sql.batch(
                "insert into brume_roll_up (day_at, job_id, whole, hours) values (?, ?, ?, ?)",
                IntStream.range(0, there.length)
                        .filter(i -> there[i] == 0)
                        .mapToObj(all::get)
                        .toList(),
                (parameters, row) -> parameters.all(row.day.begin(), row.day.job(), row.whole, row.hours));
    }

    /** Removes the sums of a job's days, or of all, that ended before an instant. */
    static void forget(Statements sql, Optional<Long> job, Instant before) {
        List<Object> values = new ArrayList<>(List.of(before.truncatedTo(ChronoUnit.DAYS)));
        job.ifPresent(values::add);
        sql.update(
                "delete from brume_roll_up where day_at < ?" + (job.isPresent() ? " and job_id = ?" : ""),
                values.toArray());
    }

    @Override
    public void clear() {
        sql.update("delete from brume_roll_up");
    }
}
