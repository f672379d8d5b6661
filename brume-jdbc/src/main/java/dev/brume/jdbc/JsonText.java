package dev.brume.jdbc;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonToken;
import java.io.IOException;
import java.io.StringWriter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Reads and writes JSON as maps, lists and plain values, by Jackson's streaming alone: that is what all of its versions have in common, and which of them is
 * there is the application's choice. Stateless.
 */
final class JsonText {
    private static final JsonFactory FACTORY = new JsonFactory();

    private JsonText() {}

    /** {@return the members of an object, in their order} */
    static Map<String, Object> map(String text) throws IOException {
        try (JsonParser parser = FACTORY.createParser(text)) {
            require(parser, JsonToken.START_OBJECT);
            return members(parser);
        }
    }

    /** {@return the elements of an array} */
    static List<@Nullable Object> list(String text) throws IOException {
        try (JsonParser parser = FACTORY.createParser(text)) {
            require(parser, JsonToken.START_ARRAY);
            return elements(parser);
        }
    }

    private static void require(JsonParser parser, JsonToken begin) throws IOException {
        JsonToken first = parser.nextToken();
        if (first != begin) {
            throw new IOException("begins with " + first + ", expected " + begin);
        }
    }

    private static Map<String, Object> members(JsonParser parser) throws IOException {
        Map<String, Object> members = new LinkedHashMap<>();
        while (next(parser) != JsonToken.END_OBJECT) {
            String name = parser.currentName();
            next(parser);
            members.put(name, value(parser));
        }
        return members;
    }

    private static List<@Nullable Object> elements(JsonParser parser) throws IOException {
        List<@Nullable Object> elements = new ArrayList<>();
        while (next(parser) != JsonToken.END_ARRAY) {
            elements.add(value(parser));
        }
        return elements;
    }

    private static JsonToken next(JsonParser parser) throws IOException {
        JsonToken token = parser.nextToken();
        if (token == null) {
            throw new IOException("ends too early");
        }
        return token;
    }

    private static @Nullable Object value(JsonParser parser) throws IOException {
        return switch (parser.currentToken()) {
            case START_OBJECT -> members(parser);
            case START_ARRAY -> elements(parser);
            case VALUE_STRING -> parser.getText();
            case VALUE_NUMBER_INT, VALUE_NUMBER_FLOAT -> parser.getNumberValue();
            case VALUE_TRUE -> true;
            case VALUE_FALSE -> false;
            case VALUE_NULL -> null;
            default -> throw new IOException("has " + parser.currentToken() + " where a value should be");
        };
    }

    /**
     * {@return a value as JSON}
     *
     * @param value made of maps, whose members that are null are left out, iterables, texts, numbers, flags and nulls
     */
    static String write(@Nullable Object value) throws IOException {
        StringWriter text = new StringWriter();
        try (JsonGenerator generator = FACTORY.createGenerator(text)) {
            write(generator, value);
        }
        return text.toString();
    }

    private static void write(JsonGenerator generator, @Nullable Object value) throws IOException {
        if (value == null) {
            generator.writeNull();
        } else if (value instanceof Map<?, ?> map) {
            generator.writeStartObject();
            for (Map.Entry<?, ?> member : map.entrySet()) {
                if (member.getValue() != null) {
                    generator.writeFieldName(String.valueOf(member.getKey()));
                    write(generator, member.getValue());
                }
            }
            generator.writeEndObject();
        } else if (value instanceof Iterable<?> all) {
            generator.writeStartArray();
            for (Object each : all) {
                write(generator, each);
            }
            generator.writeEndArray();
        } else if (value instanceof Number number) {
            generator.writeNumber(number.toString());
        } else if (value instanceof Boolean flag) {
            generator.writeBoolean(flag);
        } else {
            generator.writeString(value.toString());
        }
    }
}
