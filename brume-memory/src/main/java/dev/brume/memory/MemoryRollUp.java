package dev.brume.memory;

import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.spi.RollUpSteps;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;

/** The steps of summing up, on maps. */
final class MemoryRollUp implements RollUpSteps {
    private static final String HEAD = "head";

    private final Tables tables;

    MemoryRollUp(Tables tables) {
        this.tables = tables;
    }

    @Override
    public Reach lockReach() {
        return tables.rollUpHead.getOrDefault(HEAD, Reach.NONE);
    }

    @Override
    public void reach(Reach reach) {
        tables.put(tables.rollUpHead, HEAD, reach);
    }

    @Override
    public List<Line> lines(long beyond, IdRanges open, int limit) {
        return MemorySeals.in(tables.ledger, beyond, open)
                .limit(limit)
                .map(line -> new Line(line.owed().job(), line.inAccount()))
                .toList();
    }

    @Override
    public Map<Day, SortedMap<Instant, LineSums>> read(Collection<Day> days) {
        Map<Day, SortedMap<Instant, LineSums>> found = new HashMap<>();
        days.stream().filter(tables.rollUp::containsKey).forEach(day -> found.put(day, tables.rollUp.get(day)));
        return found;
    }

    @Override
    public void write(Map<Day, SortedMap<Instant, LineSums>> days) {
        days.forEach((day, hours) -> tables.put(tables.rollUp, day, hours));
    }

    @Override
    public void clear() {
        List.copyOf(tables.rollUp.keySet()).forEach(day -> tables.remove(tables.rollUp, day));
    }

    /** Tells whether a line is in the sums of some hours. */
    boolean has(JobAccount.Line line, SummedHours hours) {
        return line.isPlain() && hours.holds(line.planned()) && lockReach().covers(line.run());
    }

    List<SummedStretch> sums(long job, SummedHours hours) {
        return tables.rollUp.entrySet().stream()
                .filter(day -> day.getKey().job() == job)
                .flatMap(day -> hours.of(day.getKey().begin(), day.getValue()).stream())
                .sorted(Comparator.comparing(SummedStretch::from))
                .toList();
    }
}
