package dev.brume.jdbc;

import dev.brume.Outcome;
import dev.brume.history.Histogram;
import dev.brume.history.LineSums;
import dev.brume.history.Successes;
import dev.brume.internal.text.PackedReader;
import dev.brume.internal.text.PackedWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Base64;
import java.util.EnumMap;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * Sums as columns hold them: a week of a thousand jobs is read in a moment, so they are short, and quick to read.
 *
 * <p>Bytes in Base64 (RFC 4648): the number of the form, and then numbers, durations in microseconds.
 */
final class LineSumsText {
    private static final int FORM = 1;

    private LineSumsText() {}

    /** Writes the sums of a day's hours. */
    static String hours(SortedMap<Instant, LineSums> hours) {
        PackedWriter out = new PackedWriter();
        out.number(FORM);
        hours.forEach((hour, sums) -> {
            out.number(hour.truncatedTo(ChronoUnit.DAYS).until(hour, ChronoUnit.HOURS));
            write(out, hour, sums);
        });
        return Base64.getEncoder().encodeToString(out.toBytes());
    }

    /** Writes the sums of a day. */
    static String day(Instant midnight, LineSums sums) {
        PackedWriter out = new PackedWriter();
        out.number(FORM);
        write(out, midnight, sums);
        return Base64.getEncoder().encodeToString(out.toBytes());
    }

    private static void write(PackedWriter out, Instant from, LineSums sums) {
        out.number(sums.others());
        out.number(sums.outcomes().size());
        sums.outcomes().forEach((outcome, count) -> {
            out.number(code(outcome));
            out.number(count);
        });
        out.any(sums.marks());
        out.number(sums.takenOver());
        out.signed(micros(sums.latest()));
        out.bytes(sums.late().toBytes());
        out.bytes(sums.took().toBytes());
        out.number(micros(sums.tookInAll()));
        out.number(sums.successes().isPresent() ? 1 : 0);
        sums.successes().ifPresent(successes -> {
            out.signed(from.until(successes.first(), ChronoUnit.MICROS));
            out.number(successes.first().until(successes.last(), ChronoUnit.MICROS));
            out.number(micros(successes.longest()));
            out.number(micros(successes.atMost()));
        });
    }

    /** {@return the sums of a day's hours by their beginnings; empty if they are in a form that only a newer version knows} */
    static Optional<SortedMap<Instant, LineSums>> hours(Instant midnight, String text) {
        PackedReader in = new PackedReader(Base64.getDecoder().decode(text));
        if (in.number() != FORM) {
            return Optional.empty();
        }
        SortedMap<Instant, LineSums> hours = new TreeMap<>();
        while (in.hasMore()) {
            Instant hour = midnight.plus(in.number(), ChronoUnit.HOURS);
            hours.put(hour, sums(in, hour));
        }
        return Optional.of(hours);
    }

    /** {@return the sums of a day; empty if they are in a form that only a newer version knows} */
    static Optional<LineSums> day(Instant midnight, String text) {
        PackedReader in = new PackedReader(Base64.getDecoder().decode(text));
        return in.number() == FORM ? Optional.of(sums(in, midnight)) : Optional.empty();
    }

    private static LineSums sums(PackedReader in, Instant from) {
        long others = in.number();
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        for (long left = in.number(); left > 0; left--) {
            outcomes.put(outcome(in.number()), in.number());
        }
        return new LineSums(
                others,
                outcomes,
                in.any(),
                in.number(),
                duration(in.signed()),
                Histogram.ofBytes(in.bytes()),
                Histogram.ofBytes(in.bytes()),
                duration(in.number()),
                in.number() == 0 ? Optional.empty() : Optional.of(successes(in, from)));
    }

    private static Successes successes(PackedReader in, Instant hour) {
        Instant first = hour.plus(in.signed(), ChronoUnit.MICROS);
        return new Successes(
                first, first.plus(in.number(), ChronoUnit.MICROS), duration(in.number()), duration(in.number()));
    }

    private static long micros(Duration duration) {
        return Math.addExact(Math.multiplyExact(duration.getSeconds(), 1_000_000L), duration.getNano() / 1000);
    }

    private static Duration duration(long micros) {
        return Duration.of(micros, ChronoUnit.MICROS);
    }

    /** Letters, as the order of the outcomes may come to be another one. */
    private static int code(Outcome outcome) {
        return switch (outcome) {
            case SUCCEEDED -> 'S';
            case FAILED -> 'F';
            case TIMED_OUT -> 'T';
            case LOST -> 'L';
            case CANCELLED -> 'C';
            case SKIPPED -> 'P';
        };
    }

    private static Outcome outcome(long code) {
        return switch ((int) code) {
            case 'S' -> Outcome.SUCCEEDED;
            case 'F' -> Outcome.FAILED;
            case 'T' -> Outcome.TIMED_OUT;
            case 'L' -> Outcome.LOST;
            case 'C' -> Outcome.CANCELLED;
            case 'P' -> Outcome.SKIPPED;
            default -> throw new IllegalStateException("the sums of an hour name outcome " + code);
        };
    }
}
