package dev.brume.http.internal.web;

import dev.brume.definitions.JsonText;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/**
 * An answer: what is said at once, or written bit by bit.
 *
 * @param status of it
 * @param type of the content; empty if there is none
 * @param headers beside those of the content
 * @param bytes the content, if it is said at once
 * @param stream writes the content bit by bit
 */
public record Reply(
        int status, String type, Map<String, String> headers, Optional<byte[]> bytes, Optional<Stream> stream) {
    /** JSON, as RFC 8259 has it. */
    public static final String JSON = "application/json";

    /** Writes a content that may be long. */
    @FunctionalInterface
    public interface Stream {
        /** Writes all of it, and returns what is to be said after it, by names of headers. */
        Map<String, String> write(OutputStream out) throws IOException;
    }

    /** {@return an answer in JSON} */
    public static Reply json(int status, Object view) {
        return of(status, JSON, JsonText.line(view) + "\n");
    }

    /** {@return an answer in JSON to a request that could be carried out} */
    public static Reply json(Object view) {
        return json(200, view);
    }

    /** {@return an answer in text} */
    public static Reply of(int status, String type, String text) {
        return new Reply(status, type, Map.of(), Optional.of(text.getBytes(StandardCharsets.UTF_8)), Optional.empty());
    }

    /** {@return an answer without content} */
    public static Reply nothing(int status) {
        return new Reply(status, "", Map.of(), Optional.of(new byte[0]), Optional.empty());
    }

    /** {@return an answer that is written bit by bit} */
    public static Reply streamed(String type, Stream stream) {
        return new Reply(200, type, Map.of(), Optional.empty(), Optional.of(stream));
    }

    /** {@return the same content, of another type} */
    public Reply as(String other) {
        return new Reply(status, other, headers, bytes, stream);
    }

    /** {@return the same with a header more} */
    public Reply with(String header, String value) {
        Map<String, String> more = new LinkedHashMap<>(headers);
        more.put(header, value);
        return new Reply(status, type, more, bytes, stream);
    }
}
