package dev.brume.insight.internal;

import dev.brume.EngineListener;
import dev.brume.internal.duty.Settings;
import dev.brume.spi.Store;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.SplittableRandom;

/**
 * Instances on one store, in virtual time. What they decide is decided by the engine's own duties; only work is made up.
 *
 * <p>The same seed gives the same history. Confined to one thread.
 */
public final class VirtualOffice {
    private final Store store;
    private final VirtualTime time;
    private final Labour labour;
    private final EngineListener listener;
    private final SplittableRandom random;
    private final List<VirtualInstance> instances = new ArrayList<>();
    private Optional<VirtualInstance.Telling> telling = Optional.empty();

    /**
     * Creates an office without instances.
     *
     * @param store that goes by the same time
     * @param labour says how long work takes and what it comes to
     * @param listener is told what the instances do
     * @param seed for what is left to chance
     */
    public VirtualOffice(Store store, VirtualTime time, Labour labour, EngineListener listener, long seed) {
        this.store = Objects.requireNonNull(store, "store");
        this.time = Objects.requireNonNull(time, "time");
        this.labour = Objects.requireNonNull(labour, "labour");
        this.listener = Objects.requireNonNull(listener, "listener");
        this.random = new SplittableRandom(seed);
    }

    /** Has the instances that are started from now on tell. */
    public void telling(VirtualInstance.Telling how) {
        telling = Optional.of(how);
    }

    /** Starts an instance. */
    public VirtualInstance start(Settings settings) {
        VirtualInstance instance =
                new VirtualInstance(settings, store, time, labour, listener, random.split(), this::look, telling);
        instances.removeIf(old -> !old.lives());
        instances.add(instance);
        instance.start();
        return instance;
    }

    /** Has all instances look for what was defined, ordered or left behind since they last did. */
    public void look() {
        instances.forEach(VirtualInstance::look);
    }

    /** Lets time pass up to an instant, inclusive, doing whatever falls due on the way. */
    public void advanceTo(Instant until) {
        time.advanceTo(until);
    }
}
