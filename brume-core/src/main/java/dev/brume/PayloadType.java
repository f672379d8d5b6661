package dev.brume;

import java.util.Objects;
import java.util.function.Function;

/**
 * How a payload is read from text and written as text, under a name that jobs can ask for.
 *
 * <p>Brume brings no reader of its own: use the application's, such as a JSON mapper's. Safe for use by many threads if its
 * functions are.
 *
 * @param name that jobs state as their payload's type, such as {@code manifest-2}
 * @param read makes a value of the text; what it throws ends the run as failed for good, as no further attempt could read it
 * @param write makes a text of the value
 * @since 0.1.0
 */
public record PayloadType<T>(String name, Function<String, T> read, Function<T, String> write) {

    /** Creates a type. */
    public PayloadType {
        Objects.requireNonNull(name, "name");
        Objects.requireNonNull(read, "read");
        Objects.requireNonNull(write, "write");
    }

    /** {@return a value as text} */
    public String text(T value) {
        return write.apply(value);
    }
}
