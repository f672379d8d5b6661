package dev.brume.http.internal.console;

import dev.brume.Brume;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import java.util.List;
import java.util.function.LongSupplier;

/** Looks for what is wrong, at most every ten seconds however many look. Safe for use by many threads. */
final class Doctor {
    private static final long FRESH_NANOS = 10_000_000_000L;

    private final Kept<List<Finding>> findings;

    Doctor(LongSupplier nanos) {
        this.findings = new Kept<>(nanos, FRESH_NANOS);
    }

    List<Finding> findings(Brume brume) {
        return findings.get(() -> Checkup.of(brume).look().findings());
    }
}
