package dev.brume.memory;

import dev.brume.GateKey;
import dev.brume.Rate;
import dev.brume.RunState;
import dev.brume.history.Gate;
import dev.brume.history.RunRow;
import dev.brume.spi.GateSteps;
import dev.brume.spi.WaitingRun;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** The steps on gates, on maps. The queues are the held runs themselves. */
final class MemoryGates implements GateSteps {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryGates(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public void add(Map<GateKey, Integer> caps) {
        caps.forEach((key, cap) -> {
            if (!tables.gates.containsKey(key)) {
                tables.put(tables.gates, key, new Gate(key, cap, 0));
            }
        });
    }

    @Override
    public void open(Collection<GateKey> keys) {
        keys.stream()
                .filter(key -> !tables.gates.containsKey(key))
                .forEach(key -> tables.put(tables.gates, key, new Gate(key, 1, 0)));
    }

    @Override
    public int closeIdle(int limit) {
        List<GateKey> idle = tables.gates.values().stream()
                .filter(gate -> gate.key().kind() == GateKey.Kind.ONE_OFF && gate.used() == 0)
                .map(Gate::key)
                .filter(key -> waitingAt(List.of(key), 1).isEmpty())
                .limit(limit)
                .toList();
        idle.forEach(key -> tables.remove(tables.gates, key));
        return idle.size();
    }

    @Override
    public void resize(Map<GateKey, Integer> caps) {
        caps.keySet()
                .forEach(key -> tables.put(
                        tables.pastCaps,
                        tables.next("past"),
                        new Tables.PastCap(key, Tables.row(tables.gates, key).cap(), clock.get())));
        caps.forEach((key, cap) ->
                tables.put(tables.gates, key, Tables.row(tables.gates, key).sized(cap)));
    }

    @Override
    public void rate(Map<GateKey, Optional<Rate>> rates) {
        rates.forEach((key, rate) ->
                tables.put(tables.gates, key, Tables.row(tables.gates, key).rated(rate)));
    }

    @Override
    public List<GateKey> opened(Instant by, int limit) {
        return tables.gates.values().stream()
                .filter(gate -> gate.opensAt().filter(at -> !at.isAfter(by)).isPresent())
                .sorted(Comparator.comparing(gate -> gate.opensAt().orElseThrow()))
                .map(Gate::key)
                .limit(limit)
                .toList();
    }

    @Override
    public List<Gate> all() {
        return List.copyOf(tables.gates.values());
    }

    @Override
    public Map<GateKey, Gate> lock(Collection<GateKey> keys) {
        Map<GateKey, Gate> locked = new TreeMap<>(tables.gates);
        locked.keySet().retainAll(new HashSet<>(keys));
        return locked;
    }

    @Override
    public void write(Collection<Gate> gates) {
        gates.forEach(gate -> tables.put(tables.gates, gate.key(), gate));
    }

    @Override
    public void queue(List<RunRow> held) {
        // Held runs are found by their state.
    }

    @Override
    public void unqueue(Collection<Long> runs) {
        // Held runs are found by their state.
    }

    @Override
    public List<WaitingRun> waitingAt(Collection<GateKey> gates, int perJob) {
        return held(
                run -> run.gates().stream().anyMatch(gates::contains),
                Comparator.comparingInt((WaitingRun held) -> -held.priority()).thenComparing(WaitingRun::planned),
                perJob);
    }

    @Override
    public List<WaitingRun> waitingOf(Collection<Long> jobs, int perJob) {
        return held(run -> jobs.contains(run.owed().job()), Comparator.comparing(WaitingRun::planned), perJob);
    }

    private List<WaitingRun> held(Predicate<RunRow> condition, Comparator<WaitingRun> order, int perJob) {
        Map<Long, Integer> seen = new HashMap<>();
        return tables.runs.values().stream()
                .filter(run -> run.state() == RunState.WAITING)
                .filter(condition)
                .map(run -> new WaitingRun(
                        run.id(), run.owed().job(), run.priority(), run.owed().planned(), run.gates()))
                .sorted(order.thenComparing(WaitingRun::run))
                .filter(held -> seen.merge(held.job(), 1, Integer::sum) <= perJob)
                .toList();
    }

    @Override
    public Map<GateKey, Integer> count(Collection<GateKey> gates) {
        Map<GateKey, Integer> counts = new TreeMap<>();
        Stream<GateKey> taken = Stream.concat(
                tables.runs.values().stream()
                        .filter(run -> run.state() != RunState.WAITING)
                        .flatMap(run -> run.gates().stream()),
                tables.settles.values().stream()
                        .filter(settle -> !settle.waited())
                        .flatMap(settle -> settle.gates().stream()));
        taken.filter(gates::contains).forEach(gate -> counts.merge(gate, 1, Integer::sum));
        return counts;
    }
}
