package dev.brume;

import java.lang.reflect.Type;
import java.util.List;
import java.util.ServiceLoader;
import java.util.function.Function;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * Reads and writes payloads as JSON, by the library that a module brings: {@code brume-jackson2} or {@code brume-jackson3}.
 *
 * <p>What one of them has stored the others read: dates and times are ISO 8601 texts with the offset that they had, durations too, enums go
 * by their names, decimals keep their digits, members that a type does not know are passed over, and what a text lacks is left empty or zero.
 * Implementations are safe for use by many threads.
 *
 * @see PayloadType#json(Class)
 * @since 0.1.0
 */
public interface JsonPayloads {

    /** {@return the name of the library, by which settings name it, such as {@code jackson3}} */
    String name();

    /**
     * {@return how values of a type are read and written}
     *
     * @param <T> what a payload is
     * @param name of the payload's type, as jobs state it
     * @param type a class, or a type with parameters
     * @throws IllegalArgumentException if the library cannot do it
     */
    <T> PayloadType<T> type(String name, Type type);

    /**
     * {@return how values of a class are read and written, under the class's own name without its package}
     *
     * @param <T> what a payload is
     */
    default <T> PayloadType<T> type(Class<T> type) {
        return type(type.getSimpleName(), type);
    }

    /**
     * Chooses what {@link PayloadType#json(Class)} goes by in this process, such as one around the application's own mapper. The last choice holds,
     * for types that were made before, too.
     */
    static void choose(JsonPayloads payloads) {
        JsonChoice.set(payloads);
    }

    /**
     * {@return what was chosen, or the one that is there}
     *
     * @throws IllegalStateException if there is none, or several of which none was chosen
     */
    static JsonPayloads chosen() {
        return JsonChoice.get();
    }

    /**
     * {@return a type whose payload has to be there: a run that has none, or has null, is told so} For those who implement this.
     *
     * @param <T> what a payload is
     * @param name of the payload's type
     * @param read makes a value of a text; null if that says so
     * @param write makes a text of a value
     */
    static <T> PayloadType<T> required(String name, Function<String, @Nullable T> read, Function<T, String> write) {
        Function<String, T> whole = text -> {
            if (text.isBlank()) {
                throw new IllegalArgumentException("there is none");
            }
            T value = read.apply(text);
            if (value == null) {
                throw new IllegalArgumentException("it is null");
            }
            return value;
        };
        return new PayloadType<>(name, whole, write);
    }

    /** {@return those on the class path, each with a mapper of its own} */
    static List<JsonPayloads> found() {
        return ServiceLoader.load(JsonPayloads.class, JsonPayloads.class.getClassLoader()).stream()
                .map(Supplier::get)
                .toList();
    }
}
