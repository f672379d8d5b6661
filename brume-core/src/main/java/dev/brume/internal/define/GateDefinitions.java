package dev.brume.internal.define;

import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.Rate;
import dev.brume.history.Change;
import dev.brume.history.Gate;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Edit;
import dev.brume.internal.run.Waiters;
import dev.brume.spi.Transaction;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

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
        Map<GateKey, Optional<Rate>> rates = new TreeMap<>();
        limits.keySet()
                .forEach(key -> rates.put(key, Optional.ofNullable(set.rates().get(key.name()))));
        Map<GateKey, Gate> known = instance.transact(tx -> byKey(tx));
        checkLimits(set, limits, known.keySet());
        boolean unchanged = limits.keySet().stream()
                        .allMatch(key -> known.containsKey(key)
                                && of(known, key).cap() == of(limits, key)
                                && of(known, key).rate().equals(of(rates, key)))
                && known.keySet().containsAll(keys.keySet());
        if (unchanged) {
            return;
        }
        Set<GateKey> changed = instance.transact(tx -> writeGates(tx, limits, rates, keys, set.source(), edit));
        if (!changed.isEmpty()) {
            waiters.committed();
            changed.forEach(gate ->
                    instance.tell(Event.Kind.DEFINED, gate + ", " + describe(of(limits, gate), of(rates, gate))));
        }
    }

    /** {@return what a map has of a gate that it is known to have} */
    private static <V> V of(Map<GateKey, V> map, GateKey gate) {
        return Objects.requireNonNull(map.get(gate), gate::toString);
    }

    /** {@return every key and limit} */
    static Map<GateKey, Gate> byKey(Transaction tx) {
        return tx.gates().all().stream().collect(Collectors.toMap(Gate::key, gate -> gate));
    }

    /** {@return the places of every key and limit} */
    static Map<GateKey, Integer> caps(Transaction tx) {
        return tx.gates().all().stream().collect(Collectors.toMap(Gate::key, Gate::cap));
    }

    private static void checkLimits(DefinitionSet set, Map<GateKey, Integer> limits, Set<GateKey> known) {
        for (Job job : set.jobs()) {
            for (GateKey limit : job.gates(GateKey.Kind.LIMIT)) {
                if (!limits.containsKey(limit) && !known.contains(limit)) {
                    throw new IllegalArgumentException("job '" + job.name() + "' names the limit '" + limit.name()
                            + "', which is not defined (define it: limits: {" + limit.name() + ": N})");
                }
            }
        }
    }

    private Set<GateKey> writeGates(
            Transaction tx,
            Map<GateKey, Integer> limits,
            Map<GateKey, Optional<Rate>> rates,
            Map<GateKey, Integer> keys,
            String source,
            Edit edit) {
        tx.lockDefinitions();
        Map<GateKey, Gate> before = byKey(tx);
        edit.checkLimits(caps(tx), limits.keySet().stream().map(GateKey::name).toList());
        Map<GateKey, Integer> added = new TreeMap<>(keys);
        added.putAll(limits);
        added.keySet().removeAll(before.keySet());
        Map<GateKey, Integer> resized = new TreeMap<>(limits);
        resized.keySet()
                .removeIf(key -> added.containsKey(key)
                        || of(limits, key) == of(before, key).cap());
        Map<GateKey, Optional<Rate>> rerated = new TreeMap<>(rates);
        rerated.keySet()
                .removeIf(key -> of(rates, key)
                        .equals(Optional.ofNullable(before.get(key)).flatMap(Gate::rate)));
        tx.gates().add(added);
        tx.gates().resize(resized);
        tx.gates().rate(rerated);
        Set<GateKey> changed = new TreeSet<>(resized.keySet());
        changed.addAll(rerated.keySet());
        added.keySet().stream()
                .filter(gate -> gate.kind() == GateKey.Kind.LIMIT)
                .forEach(changed::add);
        waiters.lookAtGates(tx, changed);
        tx.addChanges(changed.stream()
                .map(gate -> Change.of(
                        "LIMIT_DEFINED",
                        edit.who(),
                        edit.host(),
                        gate.name() + " " + describe(before.get(gate)) + " -> "
                                + describe(of(limits, gate), of(rates, gate)) + " from " + source,
                        edit.because()))
                .toList());
        return changed;
    }

    private static String describe(@Nullable Gate gate) {
        return gate == null ? "0" : describe(gate.cap(), gate.rate());
    }

    /** A limit that has a rate alone has more places than anybody takes. */
    private static String describe(int places, Optional<Rate> rate) {
        return rate.isPresent() && places == DefinitionSet.HIGHEST_LIMIT
                ? rate.get().toString()
                : places + rate.map(starts -> ", " + starts).orElse("");
    }
}
