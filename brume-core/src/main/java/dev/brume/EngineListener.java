package dev.brume;

/**
 * Is told what an instance does, on the engine's own threads, so it must be quick. What it throws is
 * logged and changes nothing.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface EngineListener {

    /**
     * {@return whether it wants to be told of a kind} {@link Event.Kind#PLANNED} comes with every run, so it is told only to those
     * that ask for it.
     */
    default boolean wants(Event.Kind kind) {
        return kind != Event.Kind.PLANNED;
    }

    /** Takes note of an event. */
    void saw(Event event);

    /** Takes note of how the store answered; nothing unless it is overridden. */
    default void answered(StoreAnswer answer) {}
}
