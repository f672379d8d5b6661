package dev.brume.insight.board;

import java.time.Duration;
import java.time.Instant;

/**
 * A stretch of time in cells of one width, of which each begins at a multiple of it since the epoch.
 *
 * @param from where it begins, inclusive
 * @param now up to where something can have become of what was owed
 * @param until where it ends, exclusive
 * @param cell how wide a cell is, in whole seconds
 * @since 0.1.0
 */
public record Scale(Instant from, Instant now, Instant until, Duration cell) {

    /**
     * Creates a scale.
     *
     * @throws IllegalArgumentException if it is empty, or a cell is shorter than a second
     */
    public Scale {
        if (!from.isBefore(until)) {
            throw new IllegalArgumentException("a scale from " + from + " until " + until + " is empty");
        }
        if (cell.compareTo(Duration.ofSeconds(1)) < 0) {
            throw new IllegalArgumentException("a cell of " + cell + " is shorter than a second");
        }
    }

    /** {@return where the past of it ends, exclusive} */
    public Instant decided() {
        return now.isBefore(from) ? from : now.isAfter(until) ? until : now;
    }

    /** {@return the beginning of the cell that an instant is in} */
    Instant cellOf(Instant at) {
        long width = cell.toSeconds();
        return Instant.ofEpochSecond(Math.floorDiv(at.getEpochSecond(), width) * width);
    }

    /** {@return how far an instant is along it, in hundredths; below 0 before it, above 100 behind it} */
    public double share(Instant at) {
        Duration whole = Duration.between(from, until);
        Duration part = Duration.between(from, at);
        return 100.0 * part.toMillis() / whole.toMillis();
    }
}
