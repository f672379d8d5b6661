package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.history.RunRow;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Optional;

/**
 * A run that this instance holds, as it stands in memory.
 *
 * @param row as it was leased
 * @param job the definition it runs under
 * @param instance the instance's name
 * @param leasedNanos the monotonic clock when it was leased
 * @since 0.1.0
 */
public record LeasedRun(RunRow row, Job job, String instance, long leasedNanos) {

    /** {@return the run's id} */
    public long id() {
        return row.id();
    }

    /**
     * {@return the database's time at a reading of the monotonic clock, not before it was leased}
     *
     * <p>The two clocks are not read at one instant, so the start of a run that was leased just now may seem to be a little earlier.
     */
    public Instant at(long nanos) {
        RunRow.Lease lease = row.lease().orElseThrow();
        return lease.since()
                .plus(Duration.ofNanos(Math.max(0, nanos - leasedNanos)))
                .truncatedTo(ChronoUnit.MICROS);
    }

    /**
     * {@return the attempt that the lease is for, which has ended}
     *
     * @param startedNanos the monotonic clock at its start
     * @param endedNanos the monotonic clock at its end
     */
    public Attempt attempt(long startedNanos, long endedNanos, AttemptEnd end, Optional<String> error) {
        RunRow.Lease lease = row.lease().orElseThrow();
        return Attempt.begun(row.attempt(), instance, lease.session(), lease.fence(), at(startedNanos))
                .ended(at(endedNanos), end, error);
    }
}
