package dev.brume.internal.text;

import java.security.SecureRandom;
import java.util.Base64;

/** Secrets that nobody can guess. Stateless and safe for use by many threads. */
public final class Secrets {
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final int BYTES = 32;

    private Secrets() {}

    /** {@return 256 bits drawn at random, as 43 letters, digits, {@code -} and {@code _}} */
    public static String random() {
        byte[] bytes = new byte[BYTES];
        RANDOM.nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }
}
