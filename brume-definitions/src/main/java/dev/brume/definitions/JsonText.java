package dev.brume.definitions;

import com.fasterxml.jackson.jr.ob.JSON;
import java.io.IOException;
import java.io.UncheckedIOException;

/**
 * Values of {@link Views} as JSON text; what is null is written. Stateless.
 *
 * @since 0.1.0
 */
public final class JsonText {
    private JsonText() {}

    /** {@return a value in a line} */
    public static String line(Object value) {
        return write(JSON.std.with(JSON.Feature.WRITE_NULL_PROPERTIES), value);
    }

    /** {@return a value in lines, for people} */
    public static String pretty(Object value) {
        return write(JSON.std.with(JSON.Feature.PRETTY_PRINT_OUTPUT, JSON.Feature.WRITE_NULL_PROPERTIES), value);
    }

    private static String write(JSON form, Object value) {
        try {
            return form.asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
