package dev.brume.internal.text;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;

/** SHA-256 of texts in UTF-8. Stateless. */
public final class Digests {
    private Digests() {}

    /** {@return the digest of a text, in hexadecimal} */
    public static String sha256(String text) {
        return HexFormat.of().formatHex(bytes(text));
    }

    /** {@return the digest of several texts in their order, which tells where each ends} */
    public static String sha256(String first, String... more) {
        StringBuilder all = new StringBuilder(first);
        for (String text : more) {
            all.append('\0').append(text.length()).append(':').append(text);
        }
        return sha256(all.toString());
    }

    /** {@return the 32 bytes of the digest of a text} */
    public static byte[] bytes(String text) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}
