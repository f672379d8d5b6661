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
    private static final JSON LINE = JSON.std.with(JSON.Feature.WRITE_NULL_PROPERTIES);
    private static final JSON PRETTY = LINE.with(JSON.Feature.PRETTY_PRINT_OUTPUT);

    private JsonText() {}

    /** {@return a value in a line} */
    public static String line(Object value) {
        return write(LINE, value);
    }

    /** {@return a value in lines, for people} */
    public static String pretty(Object value) {
        return write(PRETTY, value);
    }

    private static String write(JSON form, Object value) {
        try {
            return form.asString(value);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
