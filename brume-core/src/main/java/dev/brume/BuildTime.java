package dev.brume;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.URISyntaxException;
import java.net.URL;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.CodeSource;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import java.util.jar.JarFile;
import java.util.jar.Manifest;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Reads when an application was built from the manifest of the archive or folder that a class of it comes from. */
final class BuildTime {
    private static final Logger LOG = LoggerFactory.getLogger(BuildTime.class);
    private static final String ATTRIBUTE = "Build-Time";

    private BuildTime() {}

    /** {@return when the application of a class was built; empty if its manifest does not say so, or cannot be read} */
    static Optional<Instant> of(Class<?> type) {
        try {
            CodeSource source = type.getProtectionDomain().getCodeSource();
            URL place = source == null ? null : source.getLocation();
            return place == null ? Optional.empty() : manifest(place).flatMap(BuildTime::read);
        } catch (IOException | URISyntaxException | RuntimeException e) {
            // An archive within an archive, a class loader of its own: it is no matter that it cannot be told from
            // there.
            LOG.debug("{} does not tell when it was built", type, e);
            return Optional.empty();
        }
    }

    private static Optional<Manifest> manifest(URL place) throws IOException, URISyntaxException {
        URI uri = place.toURI();
        if (!"file".equals(uri.getScheme())) {
            return Optional.empty();
        }
        Path path = Path.of(uri);
        if (Files.isDirectory(path)) {
            Path file = path.resolve(JarFile.MANIFEST_NAME);
            if (!Files.exists(file)) {
                return Optional.empty();
            }
            try (InputStream in = Files.newInputStream(file)) {
                return Optional.of(new Manifest(in));
            }
        }
        try (JarFile archive = new JarFile(path.toFile())) {
            return Optional.ofNullable(archive.getManifest());
        }
    }

    private static Optional<Instant> read(Manifest manifest) {
        String text = manifest.getMainAttributes().getValue(ATTRIBUTE);
        if (text == null) {
            return Optional.empty();
        }
        try {
            return Optional.of(OffsetDateTime.parse(text.strip()).toInstant());
        } catch (DateTimeParseException e) {
            LOG.warn(
                    "{}: '{}' in the manifest is not an instant such as 2026-11-30T08:15:00Z; ignored",
                    ATTRIBUTE,
                    text);
            return Optional.empty();
        }
    }
}
