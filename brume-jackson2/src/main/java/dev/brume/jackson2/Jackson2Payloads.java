package dev.brume.jackson2;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JavaType;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.ObjectReader;
import com.fasterxml.jackson.databind.ObjectWriter;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.cfg.JsonNodeFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dev.brume.JsonPayloads;
import dev.brume.PayloadType;
import java.lang.reflect.Type;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * Payloads as JSON, by Jackson 2: by a mapper of its own, or by a copy of the application's.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Jackson2Payloads implements JsonPayloads {
    private final ObjectMapper mapper;

    /** Goes by a mapper of its own. */
    public Jackson2Payloads() {
        this(JsonMapper.builder()
                .addModule(new Jdk8Module())
                .addModule(new JavaTimeModule())
                .build());
    }

    /**
     * Goes by a copy of an application's mapper, with its modules, naming and mix-ins; what {@link JsonPayloads} promises of dates, enums, decimals and
     * unknown members holds all the same.
     */
    public Jackson2Payloads(ObjectMapper application) {
        mapper = application
                .copy()
                .disable(
                        SerializationFeature.WRITE_DATES_AS_TIMESTAMPS,
                        SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS,
                        SerializationFeature.WRITE_ENUMS_USING_TO_STRING,
                        SerializationFeature.WRITE_ENUMS_USING_INDEX,
                        SerializationFeature.INDENT_OUTPUT)
                .disable(
                        DeserializationFeature.ADJUST_DATES_TO_CONTEXT_TIME_ZONE,
                        DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES,
                        DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES,
                        DeserializationFeature.READ_ENUMS_USING_TO_STRING)
                .enable(
                        DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS,
                        DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
                .configure(JsonNodeFeature.STRIP_TRAILING_BIGDECIMAL_ZEROES, /* state= */ false);
    }

    @Override
    public String name() {
        return "jackson2";
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
        } catch (JsonProcessingException e) {
            throw new IllegalArgumentException(said(e), e);
        }
    }

    /** Where it is and what is wrong, without the text itself, which may hold secrets. */
    private static String said(JsonProcessingException e) {
        return e.getLocation() == null
                ? e.getOriginalMessage()
                : "line " + e.getLocation().getLineNr() + ", column "
                        + e.getLocation().getColumnNr() + ": " + e.getOriginalMessage();
    }

    private static String write(ObjectWriter writer, Object value) {
        try {
            return writer.writeValueAsString(value);
        } catch (JsonProcessingException e) {
            throw new IllegalArgumentException("cannot be written as JSON: " + e.getOriginalMessage(), e);
        }
    }
}
