package dev.brume.insight.internal;

import dev.brume.spi.LeasedRun;

/** Says what attempts come to in virtual time. */
@FunctionalInterface
public interface Labour {

    /** {@return what an attempt that begins now comes to} */
    Effort of(LeasedRun run);
}
