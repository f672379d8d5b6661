package dev.brume.jackson3;

import dev.brume.JsonPayloads;
import dev.brume.PayloadType;
import java.lang.reflect.Type;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JavaType;
import tools.jackson.databind.ObjectReader;
import tools.jackson.databind.ObjectWriter;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.cfg.DateTimeFeature;
import tools.jackson.databind.cfg.EnumFeature;
import tools.jackson.databind.cfg.JsonNodeFeature;
import tools.jackson.databind.json.JsonMapper;

/**
 * Payloads as JSON, by Jackson 3: by a mapper of its own, or by a copy of the application's.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Jackson3Payloads implements JsonPayloads {
    private final JsonMapper mapper;

    /** Goes by a mapper of its own. */
    public Jackson3Payloads() {
        this(JsonMapper.builder().build());
    }

    /**
     * Goes by a copy of an application's mapper, with its modules, naming and mix-ins; what {@link JsonPayloads} promises of dates, enums, decimals and
     * unknown members holds all the same.
     */
    public Jackson3Payloads(JsonMapper application) {
        mapper = application
                .rebuild()
                .disable(DateTimeFeature.WRITE_DATES_AS_TIMESTAMPS, DateTimeFeature.WRITE_DURATIONS_AS_TIMESTAMPS)
                .disable(DateTimeFeature.ADJUST_DATES_TO_CONTEXT_TIME_ZONE)
                .disable(
                        EnumFeature.WRITE_ENUMS_USING_TO_STRING,
                        EnumFeature.WRITE_ENUMS_USING_INDEX,
                        EnumFeature.READ_ENUMS_USING_TO_STRING)
                .disable(SerializationFeature.INDENT_OUTPUT)
                .disable(
                        DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES,
                        DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
                .enable(
                        DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS,
                        DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
                .disable(JsonNodeFeature.STRIP_TRAILING_BIGDECIMAL_ZEROES)
                .build();
    }

    @Override
    public String name() {
        return "jackson3";
    }

    @Override
    public <T> PayloadType<T> type(String name, Type type) {
        JavaType known = mapper.constructType(Objects.requireNonNull(type, "type"));
        ObjectReader reader = mapper.readerFor(known);
        ObjectWriter writer = mapper.writerFor(known);
        return JsonPayloads.required(name, text -> read(reader, text), value -> write(writer, value));
    }

    /** Of the type that the reader was made for. */
    @SuppressWarnings("TypeParameterUnusedInFormals")
    private static <T> @Nullable T read(ObjectReader reader, String text) {
        try {
            return reader.readValue(text);
        } catch (JacksonException e) {
            throw new IllegalArgumentException(said(e), e);
        }
    }

    /** Where it is and what is wrong, without the text itself, which may hold secrets. */
    private static String said(JacksonException e) {
        return e.getLocation() == null
                ? e.getOriginalMessage()
                : "line " + e.getLocation().getLineNr() + ", column "
                        + e.getLocation().getColumnNr() + ": " + e.getOriginalMessage();
    }

    private static String write(ObjectWriter writer, Object value) {
        try {
            return writer.writeValueAsString(value);
        } catch (JacksonException e) {
            throw new IllegalArgumentException("cannot be written as JSON: " + e.getOriginalMessage(), e);
        }
    }
}
