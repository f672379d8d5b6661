package dev.brume.jdbc;

import dev.brume.Outcome;
import dev.brume.history.Histogram;
import dev.brume.history.HourSums;
import dev.brume.history.Successes;
import java.io.ByteArrayOutputStream;
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
 * The sums of a job's day as a column holds them: a week of a thousand jobs is read in a moment, so it is short, and quick to read.
 *
 * <p>Bytes in Base64 (RFC 4648): the number of the form, and of each hour which one it is and its sums. Numbers are written seven bits a byte,
 * lowest first, with the eighth bit set where more follow; durations in microseconds.
 */
final class HourSumsText {
    private static final int FORM = 1;
    private static final int MORE = 0x80;
    private static final int SEVEN = 7;

    private HourSumsText() {}

    static String write(SortedMap<Instant, HourSums> hours) {
        Writer out = new Writer();
        out.number(FORM);
        out.number(hours.size());
        hours.forEach((hour, sums) -> {
            out.number(hour.truncatedTo(ChronoUnit.DAYS).until(hour, ChronoUnit.HOURS));
            out.number(sums.others());
            out.number(sums.outcomes().size());
            sums.outcomes().forEach((outcome, count) -> {
                out.number(code(outcome));
                out.number(count);
            });
            out.mark(sums.marks());
            out.number(sums.takenOver());
            out.signed(micros(sums.latest()));
            out.histogram(sums.late());
            out.histogram(sums.took());
            out.number(micros(sums.tookInAll()));
            out.number(sums.successes().isPresent() ? 1 : 0);
            sums.successes().ifPresent(successes -> {
                out.signed(hour.until(successes.first(), ChronoUnit.MICROS));
                out.number(successes.first().until(successes.last(), ChronoUnit.MICROS));
                out.number(micros(successes.longest()));
                out.number(micros(successes.atMost()));
            });
        });
        return Base64.getEncoder().encodeToString(out.bytes.toByteArray());
    }

    /** {@return the sums by the beginnings of the hours; empty if they are in a form that only a newer version knows} */
    static Optional<SortedMap<Instant, HourSums>> read(Instant day, String text) {
        Reader in = new Reader(Base64.getDecoder().decode(text));
        if (in.number() != FORM) {
            return Optional.empty();
        }
        SortedMap<Instant, HourSums> hours = new TreeMap<>();
        for (long left = in.number(); left > 0; left--) {
            Instant hour = day.plus(in.number(), ChronoUnit.HOURS);
            hours.put(hour, sums(in, hour));
        }
        return Optional.of(hours);
    }

    private static HourSums sums(Reader in, Instant hour) {
        long others = in.number();
        Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
        for (long left = in.number(); left > 0; left--) {
            outcomes.put(outcome(in.number()), in.number());
        }
        return new HourSums(
                others,
                outcomes,
                in.mark(),
                in.number(),
                duration(in.signed()),
                in.histogram(),
                in.histogram(),
                duration(in.number()),
                in.number() == 0 ? Optional.empty() : Optional.of(successes(in, hour)));
    }

    private static Successes successes(Reader in, Instant hour) {
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

    private static final class Writer {
        private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();

        void number(long number) {
            long left = number;
            while ((left & -MORE) != 0) {
                bytes.write((int) (left & (MORE - 1)) | MORE);
                left >>>= SEVEN;
            }
            bytes.write((int) left);
        }

        void signed(long number) {
            number(number << 1 ^ number >> Long.SIZE - 1);
        }

        void mark(long mark) {
            for (int shift = 0; shift < Long.SIZE; shift += Byte.SIZE) {
                bytes.write((int) (mark >>> shift));
            }
        }

        void histogram(Histogram histogram) {
            number(histogram.size());
            int[] last = {0};
            histogram.each((bucket, count, beyond) -> {
                number(bucket - last[0]);
                number(count);
                number(beyond);
                last[0] = bucket;
            });
        }
    }

    private static final class Reader {
        private final byte[] bytes;
        private int at;

        Reader(byte[] bytes) {
            this.bytes = bytes;
        }

        long number() {
            long number = 0;
            int shift = 0;
            byte next = bytes[at++];
            while (next < 0) {
                number |= (long) (next & (MORE - 1)) << shift;
                shift += SEVEN;
                next = bytes[at++];
            }
            return number | (long) next << shift;
        }

        long signed() {
            long number = number();
            return number >>> 1 ^ -(number & 1);
        }

        long mark() {
            long mark = 0;
            for (int shift = 0; shift < Long.SIZE; shift += Byte.SIZE) {
                mark |= (bytes[at++] & 0xFFL) << shift;
            }
            return mark;
        }

        Histogram histogram() {
            int size = (int) number();
            if (size == 0) {
                return Histogram.NONE;
            }
            int[] buckets = new int[size];
            long[] counts = new long[size];
            long[] beyond = new long[size];
            int bucket = 0;
            for (int i = 0; i < size; i++) {
                bucket += (int) number();
                buckets[i] = bucket;
                counts[i] = number();
                beyond[i] = number();
            }
            return Histogram.of(buckets, counts, beyond);
        }
    }
}
