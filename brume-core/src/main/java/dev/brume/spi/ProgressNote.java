package dev.brume.spi;

import dev.brume.history.LeaseKey;
import dev.brume.history.Progress;

/**
 * How far a leased run is.
 *
 * @param lease that must still hold
 * @param percent 0 to 100
 * @param message what it is at
 * @since 0.1.0
 */
public record ProgressNote(LeaseKey lease, int percent, String message) {

    /** {@return it without the lease, for people} */
    public Progress progress() {
        return new Progress(percent, message);
    }
}
