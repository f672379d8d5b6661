package dev.brume.http.internal.web;

import dev.brume.definitions.Views;
import java.util.List;
import java.util.Map;

/**
 * A member of a body, as it is described.
 *
 * @param name of it
 * @param required whether it has to be there
 * @param schema of its values, with what it is for
 */
public record Member(String name, boolean required, Map<String, Object> schema) {
    /** Why an order is given. */
    public static final Member BECAUSE = text("because", "Why, for the change log; at most 500 characters.");

    /** {@return a text} */
    public static Member text(String name, String says) {
        return new Member(name, false, Views.object("type", "string", "description", says));
    }

    /** {@return an instant} */
    public static Member instant(String name, String says) {
        return new Member(name, false, Views.object("type", "string", "format", "date-time", "description", says));
    }

    /** {@return a number} */
    public static Member number(String name, String says) {
        return new Member(name, false, Views.object("type", "integer", "description", says));
    }

    /** {@return a flag} */
    public static Member flag(String name, String says) {
        return new Member(name, false, Views.object("type", "boolean", "description", says));
    }

    /** {@return texts in a list} */
    public static Member texts(String name, String says) {
        return new Member(
                name,
                false,
                Views.object("type", "array", "items", Views.object("type", "string"), "description", says));
    }

    /** {@return one of some words} */
    public static Member word(String name, String says, List<String> words) {
        return new Member(name, false, Views.object("type", "string", "enum", words, "description", says));
    }

    /** {@return a value of any kind, or one that has a description of its own} */
    public static Member any(String name, String says) {
        return new Member(name, false, Views.object("description", says));
    }

    /** {@return the same, which has to be there} */
    public Member needed() {
        return new Member(name, true, schema);
    }
}
