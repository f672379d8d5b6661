package dev.brume.internal.define;

import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.history.Change;
import dev.brume.history.Gate;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Edit;
import dev.brume.internal.run.Waiters;
import dev.brume.spi.Transaction;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;

/** Puts exclusion keys and limits in force; whoever waits at a limit that was raised is let go. */
final class GateDefinitions {
    private final Instance instance;
    private final Waiters waiters;

    GateDefinitions(Instance instance) {
        this.instance = instance;
        this.waiters = new Waiters(instance);
    }

    /**
     * Adds the exclusion keys that jobs name, and adds or resizes limits.
     *
     * @throws IllegalArgumentException if a job names a limit that is not defined
     */
    void define(DefinitionSet set, Edit edit) {
        Map<GateKey, Integer> limits = new TreeMap<>();
        set.limits().forEach((name, places) -> limits.put(new GateKey(GateKey.Kind.LIMIT, name), places));
        Map<GateKey, Integer> keys = new TreeMap<>();
        set.jobs().forEach(job -> job.gates(GateKey.Kind.EXCLUSIVE).forEach(key -> keys.put(key, 1)));
        boolean named = set.jobs().stream().anyMatch(job -> !job.gates().isEmpty());
        if (limits.isEmpty() && !named) {
            return;
        }
        Map<GateKey, Integer> known = instance.transact(tx -> caps(tx));
        checkLimits(set, limits, known);
        boolean unchanged =
                limits.entrySet().stream().allMatch(limit -> limit.getValue().equals(known.get(limit.getKey())))
                        && known.keySet().containsAll(keys.keySet());
        if (unchanged) {
            return;
        }
        Map<GateKey, Integer> changed = instance.transact(tx -> writeGates(tx, limits, keys, set.source(), edit));
        if (!changed.isEmpty()) {
            waiters.committed();
            changed.forEach((gate, places) -> instance.tell(Event.Kind.DEFINED, gate + ", " + places + " places"));
        }
    }

    /** {@return the places of every key and limit} */
    static Map<GateKey, Integer> caps(Transaction tx) {
        return tx.gates().all().stream().collect(Collectors.toMap(Gate::key, Gate::cap));
    }

    private static void checkLimits(DefinitionSet set, Map<GateKey, Integer> limits, Map<GateKey, Integer> known) {
        for (Job job : set.jobs()) {
            for (GateKey limit : job.gates(GateKey.Kind.LIMIT)) {
                if (!limits.containsKey(limit) && !known.containsKey(limit)) {
                    throw new IllegalArgumentException("job '" + job.name() + "' names the limit '" + limit.name()
                            + "', which is not defined (define it: limits: {" + limit.name() + ": N})");
                }
            }
        }
    }

    private Map<GateKey, Integer> writeGates(
            Transaction tx, Map<GateKey, Integer> limits, Map<GateKey, Integer> keys, String source, Edit edit) {
        tx.lockDefinitions();
        Map<GateKey, Integer> before = caps(tx);
        edit.checkLimits(before, limits.keySet().stream().map(GateKey::name).toList());
        Map<GateKey, Integer> added = new TreeMap<>(keys);
        added.putAll(limits);
        added.keySet().removeAll(before.keySet());
        Map<GateKey, Integer> resized = new TreeMap<>(limits);
        resized.entrySet()
                .removeIf(limit ->
                        added.containsKey(limit.getKey()) || limit.getValue().equals(before.get(limit.getKey())));
        tx.gates().add(added);
        tx.gates().resize(resized);
        Map<GateKey, Integer> changed = new TreeMap<>(resized);
        added.forEach((gate, places) -> {
            if (gate.kind() == GateKey.Kind.LIMIT) {
                changed.put(gate, places);
            }
        });
        waiters.lookAtGates(tx, changed.keySet());
        tx.addChanges(changed.entrySet().stream()
                .map(gate -> Change.of(
                        "LIMIT_DEFINED",
                        edit.who(),
                        instance.settings().host(),
                        gate.getKey().name() + " " + before.getOrDefault(gate.getKey(), 0) + " -> " + gate.getValue()
                                + " from " + source,
                        edit.because()))
                .toList());
        return changed;
    }
}
