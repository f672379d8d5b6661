package dev.brume.cli;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.util.Collection;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Certificates that are trusted because somebody says so. */
final class Certificates {
    private Certificates() {}

    /** {@return what trusts the certificates of a file in PEM, and no others} */
    static SSLContext trusted(Path file) {
        try (InputStream in = Files.newInputStream(file)) {
            Collection<? extends Certificate> all =
                    CertificateFactory.getInstance("X.509").generateCertificates(in);
            if (all.isEmpty()) {
                throw new UsageException("--trust " + file + " holds no certificate");
            }
            KeyStore store = KeyStore.getInstance(KeyStore.getDefaultType());
            store.load(null, null);
            int number = 0;
            for (Certificate certificate : all) {
                store.setCertificateEntry("trusted-" + number++, certificate);
            }
            TrustManagerFactory managers = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            managers.init(store);
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(null, managers.getTrustManagers(), null);
            return context;
        } catch (NoSuchFileException e) {
            throw new UsageException("--trust: there is no file " + file);
        } catch (CertificateException e) {
            throw new UsageException("--trust " + file + " holds no certificates in PEM: " + e.getMessage());
        } catch (GeneralSecurityException | IOException e) {
            throw new UsageException("--trust " + file + " cannot be used: " + e.getMessage());
        }
    }
}
