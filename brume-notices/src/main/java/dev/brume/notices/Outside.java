package dev.brume.notices;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Fills texts of channels with what they refer to outside: variables of the environment, and files. Stateless. */
final class Outside {
    private static final Pattern PLACE = Pattern.compile("\\$\\{(env|file):([^}]+)}");
    private static final long LARGEST = 64 * 1024;

    private Outside() {}

    /**
     * {@return a text with what it refers to}
     *
     * @throws IllegalStateException if that is not there; it says what, and never what is in it
     */
    static String fill(String text) {
        return PLACE.matcher(text).replaceAll(found -> Matcher.quoteReplacement(value(found.group(1), found.group(2))));
    }

    private static String value(String kind, String name) {
        if (kind.equals("env")) {
            String value = System.getenv(name);
            if (value == null) {
                throw new IllegalStateException("the variable " + name + " is not set where notices are sent from");
            }
            return value;
        }
        try {
            Path file = Path.of(name);
            if (Files.size(file) > LARGEST) {
                throw new IllegalStateException("the file " + name + " is larger than " + LARGEST + " bytes");
            }
            return Files.readString(file).strip();
        } catch (IOException e) {
            throw new UncheckedIOException(
                    "the file " + name + " cannot be read where notices are sent from: " + e.getMessage(), e);
        }
    }
}
