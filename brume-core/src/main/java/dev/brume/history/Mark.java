package dev.brume.history;

import dev.brume.internal.text.Digests;
import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.Arrays;
import java.util.Base64;
import java.util.Optional;

/**
 * The mark of a row in a seal: the first 12 bytes of the SHA-256 of its canonical form, and the minute that retention goes by, in Base64 for
 * URLs. Once a row is gone, its minute still tells whether it was old enough to go. Stateless.
 *
 * @since 0.1.0
 */
public final class Mark {
    /** How many characters a mark has. */
    static final int LENGTH = 22;

    private static final int DIGEST_CHARACTERS = 16;
    private static final int DIGEST_BYTES = 12;
    private static final long SECONDS = 60;

    private Mark() {}

    /** {@return the mark of a row} */
    static String of(String form, Instant at) {
        int minute = (int) Math.min(0xFFFF_FFFFL, Math.max(0, at.getEpochSecond() / SECONDS));
        Base64.Encoder encoder = Base64.getUrlEncoder().withoutPadding();
        return encoder.encodeToString(Arrays.copyOf(Digests.bytes(form), DIGEST_BYTES))
                + encoder.encodeToString(
                        ByteBuffer.allocate(Integer.BYTES).putInt(minute).array());
    }

    /** {@return the minute of a mark, its beginning; empty if it is no mark} */
    public static Optional<Instant> minute(String mark) {
        if (mark.length() != LENGTH) {
            return Optional.empty();
        }
        try {
            byte[] minute = Base64.getUrlDecoder().decode(mark.substring(DIGEST_CHARACTERS));
            return Optional.of(Instant.ofEpochSecond(
                    Integer.toUnsignedLong(ByteBuffer.wrap(minute).getInt()) * SECONDS));
        } catch (IllegalArgumentException noBase64) {
            return Optional.empty();
        }
    }
}
