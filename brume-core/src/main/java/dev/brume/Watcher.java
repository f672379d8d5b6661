package dev.brume;

/**
 * Is told what an instance does, on the engine's own threads, so it must be quick. What it throws is
 * logged and changes nothing.
 */
@FunctionalInterface
public interface Watcher {

    /** Takes note of an event. */
    void saw(Event event);
}
