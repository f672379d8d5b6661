package dev.brume.schedule;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * Occurrences owed later by a fixed offset, so that a thousand jobs of the same hour do not start together.
 *
 * <p>The offset is the same on every machine and for ever: the first eight bytes of the SHA-256 digest of
 * the key (UTF-8), taken as an unsigned big-endian number {@code h}, give {@code floor(h * seconds / 2^64)} whole
 * seconds, evenly from 0 (inclusive) to the width (exclusive). Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Spread implements Timeline {
    private final Timeline inner;
    private final Duration offset;

    private Spread(Timeline inner, Duration offset) {
        this.inner = inner;
        this.offset = offset;
    }

    /** Delays a timeline by an offset; none of its occurrences is left out or cut off. */
    public static Timeline of(Timeline inner, Duration offset) {
        return offset.isZero() ? inner : new Spread(inner, offset);
    }

    /**
     * {@return the offset of a key}
     *
     * @param key such as {@code main/tide-tables}
     * @param width one second or more; parts of a second are dropped
     */
    public static Duration offset(String key, Duration width) {
        long hash = ByteBuffer.wrap(digest(key)).getLong();
        long seconds = width.toSeconds();
        long high = Math.multiplyHigh(hash, seconds) + (hash < 0 ? seconds : 0);
        return Duration.ofSeconds(high);
    }

    private static byte[] digest(String key) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(key.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return inner.next(Instants.minus(after, offset)).map(owed -> owed.later(offset));
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return inner.previous(Instants.minus(before, offset)).map(owed -> owed.later(offset));
    }

    @Override
    public long count(Instant from, Instant until) {
        return inner.count(Instants.minus(from, offset), Instants.minus(until, offset));
    }
}
