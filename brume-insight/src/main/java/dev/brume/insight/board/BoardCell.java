package dev.brume.insight.board;

import java.time.Instant;
import java.util.Map;
import java.util.Optional;

/**
 * What is in a cell of a row.
 *
 * @param from where the cell begins, inclusive
 * @param until where it ends, exclusive
 * @param first the earliest occurrence in it
 * @param fates how many met each fate; none is 0
 * @param takenOver over how many an instance died
 * @param run of the only occurrence, if there is only one and its run is known
 * @param lateBy by how much the latest began late, in seconds; 0 if none did
 * @since 0.1.0
 */
public record BoardCell(
        Instant from,
        Instant until,
        Instant first,
        Map<Fate, Long> fates,
        long takenOver,
        Optional<Long> run,
        long lateBy) {

    /** {@return how many occurrences are in it} */
    public long count() {
        return fates.values().stream().mapToLong(Long::longValue).sum();
    }

    /** {@return the fate among them that needs a person most} */
    public Fate worst() {
        return fates.keySet().stream().min(Enum::compareTo).orElseThrow();
    }
}
