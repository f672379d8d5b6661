package dev.brume.internal.duty;

import java.time.Duration;

/** One thing an instance does again and again. */
@FunctionalInterface
public interface Duty {

    /**
     * Does one step.
     *
     * @return after how long it wants to be called again at the latest; zero for at once
     */
    Duration step();
}
