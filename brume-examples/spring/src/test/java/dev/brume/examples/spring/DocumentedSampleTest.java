package dev.brume.examples.spring;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The listings of the page on Spring stand in the sample, word for word. */
class DocumentedSampleTest {
    private static final Pattern JAVA = Pattern.compile("```java\n(.*?)```", Pattern.DOTALL);

    @Test
    void listingsStandInTheSample() throws IOException {
        String sources;
        try (Stream<Path> files = Files.walk(Path.of("src"))) {
            sources = files.filter(file -> file.toString().endsWith(".java"))
                    .map(DocumentedSampleTest::read)
                    .collect(Collectors.joining("\n"));
        }
        Matcher listing = JAVA.matcher(Files.readString(Path.of("../../docs/spring.md")));
        int found = 0;
        while (listing.find()) {
            assertThat(sources).contains(listing.group(1).stripTrailing());
            found++;
        }
        assertThat(found).isGreaterThan(4);
    }

    private static String read(Path file) {
        try {
            return Files.readString(file);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
