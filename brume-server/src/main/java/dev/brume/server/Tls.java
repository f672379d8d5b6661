package dev.brume.server;

import java.nio.file.Path;

/**
 * How connections are encrypted.
 *
 * @param keyStore a file with the certificate and its key, PKCS 12 or JKS
 * @param password of it
 * @since 0.1.0
 */
public record Tls(Path keyStore, String password) {

    /** {@return what it is, without the password} */
    @Override
    public String toString() {
        return "TLS by " + keyStore;
    }
}
