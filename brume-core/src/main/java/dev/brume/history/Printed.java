package dev.brume.history;

import dev.brume.internal.text.Digests;

/**
 * The output of an attempt, as seals see it.
 *
 * @param attempt from 1
 * @param bytes how many there were
 * @param omitted how many of them were left out
 * @param digest SHA-256 of what is kept, in UTF-8, in hexadecimal
 * @since 0.1.0
 */
public record Printed(int attempt, long bytes, long omitted, String digest) {

    /** {@return the digest of an output} */
    public static Printed of(int attempt, Output output) {
        return new Printed(attempt, output.bytes(), output.omitted(), Digests.sha256(output.text()));
    }
}
