package dev.brume;

import java.security.SecureRandom;
import java.time.Instant;

/** Names that are made rather than chosen: ten characters of the time, which sort by it, and twelve that nobody can guess. */
final class NewNames {
    /** Without letters that are read as others. */
    private static final String ALPHABET = "0123456789abcdefghjkmnpqrstvwxyz";

    private static final int BITS = 5;
    private static final int TIME = 10;
    private static final int CHANCE = 12;
    private static final SecureRandom RANDOM = new SecureRandom();

    private NewNames() {}

    static String at(Instant now) {
        StringBuilder name = new StringBuilder();
        for (int i = TIME - 1; i >= 0; i--) {
            name.append(ALPHABET.charAt((int) (now.toEpochMilli() >>> i * BITS) & ALPHABET.length() - 1));
        }
        for (int i = 0; i < CHANCE; i++) {
            name.append(ALPHABET.charAt(RANDOM.nextInt(ALPHABET.length())));
        }
        return name.toString();
    }
}
