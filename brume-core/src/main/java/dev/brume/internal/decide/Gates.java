package dev.brume.internal.decide;

import dev.brume.GateKey;
import dev.brume.history.Gate;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * The shared gates that a batch of decisions draws on, as locked; what is taken counts at once for the decisions after.
 * Confined to one thread.
 */
public final class Gates {
    private final Map<GateKey, Gate> gates;
    private final Supplier<Instant> clock;
    private final Set<GateKey> touched = new LinkedHashSet<>();
    private @Nullable Instant now;

    /**
     * Begins with gates as they are locked.
     *
     * @param clock asked once, if a gate has a rate
     */
    public Gates(Map<GateKey, Gate> locked, Supplier<Instant> clock) {
        this.gates = new HashMap<>(locked);
        this.clock = clock;
    }

    /** {@return whether each of these has a place, and lets one more begin now; one that does not exist has none} */
    public boolean open(Collection<GateKey> keys) {
        return keys.stream().allMatch(key -> isOpen(gates.get(key)));
    }

    private boolean isOpen(@Nullable Gate gate) {
        return gate != null && gate.hasRoom() && (gate.rate().isEmpty() || gate.letsBegin(now()));
    }

    private Instant now() {
        if (now == null) {
            now = clock.get();
        }
        return now;
    }

    /** Takes a place of each. */
    public void take(Collection<GateKey> keys) {
        keys.forEach(key ->
                change(key, gate -> gate.rate().isEmpty() ? gate.used(gate.used() + 1) : gate.begun(now())));
    }

    /** Gives a place of each back. */
    public void free(Collection<GateKey> keys) {
        keys.forEach(key -> change(key, gate -> gate.used(Math.max(0, gate.used() - 1))));
    }

    /** Puts right how many places of a locked one are taken. */
    public void set(GateKey key, int used) {
        Objects.requireNonNull(gates.get(key), key::toString);
        change(key, gate -> gate.used(Math.max(0, used)));
    }

    /**
     * Notes that whoever waits at gates was looked at.
     *
     * @param again whether there may be more who may begin
     */
    public void looked(Collection<GateKey> keys, boolean again) {
        keys.forEach(key -> change(key, gate -> gate.looked(now(), again)));
    }

    private void change(GateKey key, UnaryOperator<Gate> how) {
        Gate gate = gates.get(key);
        if (gate != null) {
            gates.put(key, how.apply(gate));
            touched.add(key);
        }
    }

    /** {@return those that changed} */
    public List<Gate> changed() {
        return touched.stream().sorted().map(gates::get).toList();
    }
}
