package dev.brume.schedule;

import java.math.BigInteger;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Counts what several fixed grids have together, by arithmetic alone: however dense they are and however long the period. */
final class Grids {
    /** Above that, all the ways in which they may meet are too many. */
    static final int MOST = 8;

    private Grids() {}

    /**
     * A grid in microseconds.
     *
     * @param offset of one of its points
     * @param step between two
     */
    private record Grid(BigInteger offset, BigInteger step) {
        static Grid of(EverySchedule schedule) {
            return new Grid(
                    micros(schedule.anchor()),
                    BigInteger.valueOf(schedule.interval().toNanos() / 1000));
        }

        /** {@return the points that both have: none, or a grid again (the Chinese remainder theorem)} */
        Optional<Grid> meet(Grid other) {
            BigInteger common = step.gcd(other.step);
            BigInteger apart = other.offset.subtract(offset);
            if (apart.mod(common).signum() != 0) {
                return Optional.empty();
            }
            BigInteger others = other.step.divide(common);
            BigInteger steps = others.equals(BigInteger.ONE)
                    ? BigInteger.ZERO
                    : apart.divide(common)
                            .multiply(step.divide(common).modInverse(others))
                            .mod(others);
            return Optional.of(new Grid(offset.add(step.multiply(steps)), step.multiply(others)));
        }

        /** {@return how many points lie before an instant, counted from one of them} */
        private BigInteger before(BigInteger micros) {
            BigInteger[] parts =
                    micros.subtract(offset).subtract(BigInteger.ONE).divideAndRemainder(step);
            return parts[1].signum() < 0 ? parts[0].subtract(BigInteger.ONE) : parts[0];
        }

        long count(BigInteger from, BigInteger until) {
            return before(until).subtract(before(from)).longValueExact();
        }
    }

    /** Rounded up, so that a bound between two microseconds is that of the later one. */
    private static BigInteger microsFrom(Instant instant) {
        BigInteger floor = micros(instant);
        return instant.truncatedTo(ChronoUnit.MICROS).equals(instant) ? floor : floor.add(BigInteger.ONE);
    }

    private static BigInteger micros(Instant instant) {
        return BigInteger.valueOf(instant.getEpochSecond())
                .multiply(BigInteger.valueOf(1_000_000))
                .add(BigInteger.valueOf(instant.getNano() / 1000));
    }

    /** Counts the points of all grids from {@code from} (inclusive) to {@code until} (exclusive), those that some share once. */
    static long count(List<EverySchedule> schedules, Instant from, Instant until) {
        if (!from.isBefore(until)) {
            return 0;
        }
        List<Grid> grids = schedules.stream().map(Grid::of).toList();
        BigInteger first = microsFrom(from);
        BigInteger last = microsFrom(until);
        long total = grids.stream().mapToLong(grid -> grid.count(first, last)).sum();
        // Inclusion and exclusion: what two share was counted twice, what three share was then taken off three times,
        // and so on.
        List<Meeting> meetings = new ArrayList<>();
        for (int i = 0; i < grids.size(); i++) {
            meetings.add(new Meeting(grids.get(i), i));
        }
        int sign = -1;
        while (!meetings.isEmpty()) {
            List<Meeting> deeper = new ArrayList<>();
            for (Meeting meeting : meetings) {
                for (int i = meeting.newest + 1; i < grids.size(); i++) {
                    int newest = i;
                    meeting.grid.meet(grids.get(i)).ifPresent(grid -> deeper.add(new Meeting(grid, newest)));
                }
            }
            for (Meeting meeting : deeper) {
                total += sign * meeting.grid.count(first, last);
            }
            sign = -sign;
            meetings = deeper;
        }
        return total;
    }

    /** What some grids share, the last of them by its place. */
    private record Meeting(Grid grid, int newest) {}
}
