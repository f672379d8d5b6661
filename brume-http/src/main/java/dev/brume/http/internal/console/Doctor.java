package dev.brume.http.internal.console;

import dev.brume.Brume;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Executor;
import java.util.function.LongSupplier;

/** Looks for what is wrong, at most every ten seconds however many look. Safe for use by many threads. */
final class Doctor {
    private static final long FRESH_NANOS = 10_000_000_000L;
    private static final long USEFUL_NANOS = 60_000_000_000L;

    /** As long as nobody minds; where there is little, it takes less. */
    private static final long PATIENCE_MILLIS = 250;

    private final Kept<List<Finding>> findings;

    Doctor(LongSupplier nanos, Executor behind) {
        this.findings = new Kept<>(nanos, FRESH_NANOS, USEFUL_NANOS, behind);
    }

    /** {@return what is found, once it has been looked for if need be} */
    List<Finding> findings(Brume brume) {
        return findings.get(() -> look(brume));
    }

    /** {@return what was found within a minute; empty if nobody has looked and it takes a while, in which case that goes on} */
    Optional<List<Finding>> known(Brume brume) {
        return findings.known(() -> look(brume), PATIENCE_MILLIS);
    }

    private static List<Finding> look(Brume brume) {
        return Checkup.of(brume).look().findings();
    }
}
