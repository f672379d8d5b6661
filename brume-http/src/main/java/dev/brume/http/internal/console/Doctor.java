package dev.brume.http.internal.console;

import dev.brume.Brume;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import java.util.List;
import java.util.function.LongSupplier;
import org.jspecify.annotations.Nullable;

/** Looks for what is wrong, at most every ten seconds however many look. Safe for use by many threads. */
final class Doctor {
    private static final long FRESH_NANOS = 10_000_000_000L;

    private final LongSupplier nanos;
    private @Nullable List<Finding> last;
    private long at;

    Doctor(LongSupplier nanos) {
        this.nanos = nanos;
    }

    synchronized List<Finding> findings(Brume brume) {
        List<Finding> known = last;
        if (known == null || nanos.getAsLong() - at > FRESH_NANOS) {
            known = Checkup.of(brume).look().findings();
            last = known;
            at = nanos.getAsLong();
        }
        return known;
    }
}
