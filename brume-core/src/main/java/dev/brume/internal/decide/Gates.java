package dev.brume.internal.decide;

import dev.brume.GateKey;
import dev.brume.history.Gate;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;

/**
 * The shared gates that a batch of decisions draws on, as locked; what is taken counts at once for the decisions after.
 * Confined to one thread.
 */
public final class Gates {
    private final Map<GateKey, Gate> gates;
    private final Set<GateKey> touched = new LinkedHashSet<>();

    /** Begins with gates as they are locked. */
    public Gates(Map<GateKey, Gate> locked) {
        gates = new HashMap<>(locked);
    }

    /** {@return whether each of these has a place; one that does not exist has none} */
    public boolean open(Collection<GateKey> keys) {
        return keys.stream()
                .allMatch(key -> gates.containsKey(key)
                        && gates.get(key).used() < gates.get(key).cap());
    }

    /** Takes a place of each. */
    public void take(Collection<GateKey> keys) {
        keys.forEach(key -> change(key, 1));
    }

    /** Gives a place of each back. */
    public void free(Collection<GateKey> keys) {
        keys.forEach(key -> change(key, -1));
    }

    /** Puts right how many places of a locked one are taken. */
    public void set(GateKey key, int used) {
        change(key, used - Objects.requireNonNull(gates.get(key), key::toString).used());
    }

    private void change(GateKey key, int more) {
        Gate gate = gates.get(key);
        if (gate != null) {
            gates.put(key, gate.taking(Math.max(more, -gate.used())));
            touched.add(key);
        }
    }

    /** {@return those that changed} */
    public List<Gate> changed() {
        return touched.stream().sorted().map(gates::get).toList();
    }
}
