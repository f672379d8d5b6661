package dev.brume.notices;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.util.HexFormat;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Signs what is posted, so that a receiver knows who sent it and when: HMAC-SHA256 (RFC 2104) over id, time and body, each ended by a line feed but the
 * body.
 *
 * @since 0.1.0
 */
public final class Signature {
    /** The header that holds the id that is signed. */
    public static final String ID = "Brume-Id";

    /** The header that holds the time that is signed, in ISO 8601. */
    public static final String TIME = "Brume-Time";

    /** The header that holds the signature, in hexadecimal. */
    public static final String HEADER = "Brume-Hmac-Sha256";

    private Signature() {}

    /**
     * {@return the signature, in hexadecimal}
     *
     * @param secret that both sides know
     * @param id as {@link #ID} says it
     * @param time as {@link #TIME} says it
     * @param body as it was sent
     */
    public static String of(String secret, String id, String time, String body) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(secret.getBytes(StandardCharsets.UTF_8), "HmacSHA256"));
            return HexFormat.of()
                    .formatHex(mac.doFinal((id + "\n" + time + "\n" + body).getBytes(StandardCharsets.UTF_8)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java has HmacSHA256", e);
        }
    }
}
