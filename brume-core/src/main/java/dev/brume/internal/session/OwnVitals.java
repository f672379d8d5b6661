package dev.brume.internal.session;

import dev.brume.history.Vitals;
import java.lang.management.ManagementFactory;

/** How this process is. Stateless. */
final class OwnVitals {
    private static final long MEGABYTE = 1_000_000;

    private OwnVitals() {}

    static Vitals read() {
        Runtime runtime = Runtime.getRuntime();
        return new Vitals(
                (runtime.totalMemory() - runtime.freeMemory()) / MEGABYTE,
                runtime.maxMemory() / MEGABYTE,
                ManagementFactory.getOperatingSystemMXBean().getSystemLoadAverage(),
                runtime.availableProcessors());
    }
}
