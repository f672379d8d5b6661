package dev.brume;

import java.lang.reflect.Type;
import java.util.Objects;
import java.util.function.Function;

/**
 * How a payload is read from text and written as text, under a name that jobs can ask for.
 *
 * <p>Of JSON, {@link #json(Class)} makes one by the library that the application has; for other formats give the functions. Safe for use by
 * many threads if its functions are.
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

    /**
     * {@return how values of a class are read from JSON and written as JSON, under the class's own name without its package}
     *
     * @param <T> what a payload is
     * @throws IllegalStateException if there is nothing that could read JSON, or several of which none was {@linkplain JsonPayloads#choose
     *     chosen}
     */
    public static <T> PayloadType<T> json(Class<T> type) {
        return json(type.getSimpleName(), type);
    }

    /**
     * {@return how values of a type are read from JSON and written as JSON}
     *
     * @param <T> what a payload is
     * @param name that jobs state as their payload's type, such as {@code manifest-2}
     * @param type a class, or a type with parameters such as a list of some class
     * @throws IllegalStateException if there is nothing that could read JSON, or several of which none was chosen
     */
    public static <T> PayloadType<T> json(String name, Type type) {
        ChosenJson<T> json = new ChosenJson<>(name, type);
        json.now();
        return new PayloadType<>(
                name,
                text -> json.now().read().apply(text),
                value -> json.now().write().apply(value));
    }

    /** {@return a value as text} */
    public String text(T value) {
        return write.apply(value);
    }
}
