package dev.brume.http.internal.console;

import java.util.List;

/**
 * Something that can be ordered on a page: the page's script sends it to the API, which checks it and says what is wrong with it.
 *
 * @param word on the button
 * @param says what will happen, in a sentence
 * @param method of the request
 * @param path of the resource
 * @param fields that are filled in beside the reason
 * @param members that are always sent, as JSON
 * @param changes whether it changes something, so that it has a reason
 */
public record Order(
        String word, String says, String method, String path, List<Field> fields, String members, boolean changes) {
    /** A member of the body: its name, what it is called, what is in it at first, and of which kind it is. */
    public record Field(String name, String label, String value, Kind kind) {}

    /** What a field takes. */
    public enum Kind {
        /** A line of text. */
        TEXT,
        /** JSON, or a text that is none. */
        PAYLOAD,
        /** JSON alone, since the job says of which type its payload is. */
        JSON,
        /** Lines of text. */
        LINES,
        /** A name that stands in the path. */
        PLACE,
        /** An instant. */
        INSTANT,
        /** A whole number. */
        NUMBER
    }

    static Order post(String word, String says, String path) {
        return new Order(word, says, "POST", path, List.of(), "{}", /* changes= */ true);
    }

    Order with(Field... more) {
        return new Order(word, says, method, path, List.of(more), members, changes);
    }

    /** {@return the same as a question, which changes nothing} */
    Order asked() {
        return new Order(word, says, method, path, fields, members, /* changes= */ false);
    }

    Order by(String other) {
        return new Order(word, says, other, path, fields, members, changes);
    }

    Order sending(String json) {
        return new Order(word, says, method, path, fields, json, changes);
    }
}
