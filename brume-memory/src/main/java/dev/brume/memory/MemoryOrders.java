package dev.brume.memory;

import dev.brume.Allowance;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.AllowanceRow;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.RunRow;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.OrderSteps;
import dev.brume.spi.Settle;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** The steps of orders by hand, on maps. */
final class MemoryOrders implements OrderSteps {
    private final Tables tables;
    private final Supplier<Instant> now;
    private final Consumer<List<LedgerLine>> ledger;

    MemoryOrders(Tables tables, Supplier<Instant> now, Consumer<List<LedgerLine>> ledger) {
        this.tables = tables;
        this.now = now;
        this.ledger = ledger;
    }

    @Override
    public Optional<RunRow> find(long run) {
        return Optional.ofNullable(tables.runs.get(run));
    }

    @Override
    public List<RunRow> ofJob(long job) {
        return tables.runs.ofJob(job).toList();
    }

    @Override
    public boolean endWaiting(long id, Outcome outcome, Reason reason) {
        Optional<RunRow> found = find(id).filter(run -> run.lease().isEmpty());
        if (found.isEmpty()) {
            return false;
        }
        RunRow run = found.get();
        tables.remove(tables.runs, id);
        tables.remove(tables.awaited, id);
        Instant end = now.get();
        tables.put(tables.endedWaiting, id, end);
        tables.waitsNoMore(id, end);
        ledger.accept(List.of(LedgerLine.ofWaiting(run, outcome, reason)));
        tables.put(
                tables.settles,
                id,
                new Settle(
                        id,
                        run.owed().job(),
                        run.version(),
                        Optional.of(new Settle.End(outcome, end, Optional.empty())),
                        run.state() == RunState.WAITING,
                        run.gates()));
        return true;
    }

    @Override
    public List<RunRow> tooLate(int limit) {
        Instant clock = now.get();
        return tables.runs.tooLate(clock).limit(limit).toList();
    }

    static boolean isTooLate(RunRow run, Instant clock) {
        return run.lease().isEmpty()
                && run.startBy().filter(by -> !by.isAfter(clock)).isPresent();
    }

    @Override
    public void askToStop(Collection<Long> runs, StopReason why) {
        runs.stream().filter(run -> !tables.stops.containsKey(run)).forEach(run -> tables.put(tables.stops, run, why));
    }

    @Override
    public Map<Long, StopReason> askedToStop() {
        return new HashMap<>(tables.stops);
    }

    @Override
    public void forgetStops(Collection<Long> runs) {
        runs.forEach(run -> tables.remove(tables.stops, run));
    }

    @Override
    public Set<Instant> havingRuns(long job, Instant from, Instant until) {
        Set<Instant> found = new HashSet<>();
        Stream.concat(
                        tables.runs.values().stream().map(RunRow::owed),
                        tables.ledger.values().stream()
                                .filter(line -> line.outcome() != Outcome.SKIPPED)
                                .map(LedgerLine::owed))
                .filter(owed -> owed.job() == job
                        && !owed.planned().isBefore(from)
                        && owed.planned().isBefore(until))
                .forEach(owed -> found.add(owed.planned()));
        return found;
    }

    @Override
    public List<Pause> pauses() {
        return tables.pauses.values().stream().sorted(Tables.PAUSES).toList();
    }

    @Override
    public void addPause(Pause pause) {
        tables.put(tables.pauses, tables.next("pause"), pause);
    }

    @Override
    public int endPauses(Pause.Scope scope, Instant at) {
        List<Map.Entry<Long, Pause>> inForce = tables.pauses.entrySet().stream()
                .filter(each ->
                        each.getValue().scope().equals(scope) && each.getValue().isInForce(at))
                .toList();
        for (Map.Entry<Long, Pause> each : inForce) {
            Pause pause = each.getValue();
            tables.put(
                    tables.pauses,
                    each.getKey(),
                    new Pause(
                            scope,
                            pause.since(),
                            Optional.of(at),
                            pause.owed(),
                            pause.who(),
                            pause.because(),
                            pause.days()));
        }
        return inForce.size();
    }

    @Override
    public int takeBackPauses(Pause.Scope scope, Optional<Pause.Days> days, Instant at) {
        List<Long> planned = tables.pauses.entrySet().stream()
                .filter(each -> each.getValue().scope().equals(scope)
                        && each.getValue().since().isAfter(at)
                        && (days.isEmpty() || days.equals(each.getValue().days())))
                .map(Map.Entry::getKey)
                .toList();
        planned.forEach(id -> tables.remove(tables.pauses, id));
        return planned.size();
    }

    @Override
    public void mark(Map<Long, PauseMark> jobs) {
        jobs.forEach((id, mark) -> {
            Tables.StoredJob before = Tables.row(tables.jobs, id);
            tables.put(
                    tables.jobs, id, new Tables.StoredJob(before.row().with(mark), before.live(), before.definedAt()));
        });
    }

    @Override
    public Optional<Allowance> allowance(String namespace) {
        return Optional.ofNullable(tables.allowances.get(namespace)).map(AllowanceRow::allowance);
    }

    @Override
    public void allow(String namespace, Optional<Allowance> allowance, String who) {
        if (allowance.isPresent()) {
            tables.put(tables.allowances, namespace, new AllowanceRow(allowance.get(), now.get(), who));
        } else {
            tables.remove(tables.allowances, namespace);
        }
    }

    @Override
    public long jobsIn(String namespace) {
        return tables.jobs.values().stream()
                .filter(job -> job.live() && job.row().name().namespace().equals(namespace))
                .count();
    }
}
