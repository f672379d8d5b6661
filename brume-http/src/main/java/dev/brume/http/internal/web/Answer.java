package dev.brume.http.internal.web;

import dev.brume.definitions.Views;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * What an operation answers if it could be carried out, as it is described.
 *
 * @param status of it
 * @param says what it is
 * @param type of the content; empty if there is none
 * @param schema of the content; empty if it is none in JSON
 */
public record Answer(int status, String says, String type, Map<String, Object> schema) {
    private static final Map<String, Object> PARTS = Views.parts();

    /** {@return something that the vocabulary of views names} */
    public static Answer of(String says, String view) {
        return new Answer(200, says, Reply.JSON, reference(view));
    }

    /** {@return a list of what the vocabulary of views names} */
    public static Answer listOf(String says, String view) {
        return new Answer(200, says, Reply.JSON, Views.object("type", "array", "items", reference(view)));
    }

    /** {@return an object of some members} */
    public static Answer object(String says, Object... membersAndSchemas) {
        return new Answer(
                200, says, Reply.JSON, Views.object("type", "object", "properties", Views.object(membersAndSchemas)));
    }

    /** {@return a content that is no JSON} */
    public static Answer text(String says, String type) {
        return new Answer(200, says, type, Map.of());
    }

    /** {@return nothing but the status} */
    public static Answer nothing(String says) {
        return new Answer(204, says, "", Map.of());
    }

    /** {@return the same with another status} */
    public Answer with(int other) {
        return new Answer(other, says, type, schema);
    }

    private static Map<String, Object> reference(String view) {
        return Views.object("$ref", "#/components/schemas/" + view);
    }

    /** {@return the names of the members that it has, or each of its list has; empty if they are not told} */
    Optional<Set<String>> members() {
        Object item = schema.getOrDefault("items", schema);
        Object reference = item instanceof Map<?, ?> map ? map.get("$ref") : null;
        if (reference == null) {
            return Optional.empty();
        }
        String view = reference.toString().substring(reference.toString().lastIndexOf('/') + 1);
        Map<String, Object> found = new LinkedHashMap<>();
        gather(view, found);
        return found.isEmpty() ? Optional.empty() : Optional.of(new TreeSet<>(found.keySet()));
    }

    @SuppressWarnings("unchecked")
    private static void gather(String view, Map<String, Object> found) {
        Map<String, Object> schema = (Map<String, Object>) PARTS.getOrDefault(view, Map.of());
        if (schema.get("properties") instanceof Map<?, ?> properties) {
            found.putAll((Map<String, Object>) properties);
        }
        if (schema.get("allOf") instanceof Iterable<?> parts) {
            for (Object part : parts) {
                if (part instanceof Map<?, ?> map && map.get("$ref") instanceof String reference) {
                    gather(reference.substring(reference.lastIndexOf('/') + 1), found);
                }
                if (part instanceof Map<?, ?> map && map.get("properties") instanceof Map<?, ?> properties) {
                    found.putAll((Map<String, Object>) properties);
                }
            }
        }
    }
}
