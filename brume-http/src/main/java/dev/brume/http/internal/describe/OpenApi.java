package dev.brume.http.internal.describe;

import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Describes all that can be asked for, as OpenAPI 3.1 has it: made of what routes and checks requests. Stateless. */
public final class OpenApi {
    private static final String DEFINITIONS = "#/$defs/";
    private static final String COMPONENTS = "#/components/schemas/";
    private static final Map<String, String> HEADERS = Map.of(
            "Idempotency-Key", "A key of the caller's: the same order under it is carried out once.",
            "If-Match", "The ETag of the definition that was seen, or *.",
            "Prefer", "wait=N: answer when the run has ended, or after N seconds, at most 60.",
            "Last-Event-ID", "The id of the last event that is known.");

    private OpenApi() {}

    /** {@return the description of operations, the same each time} */
    @SuppressWarnings("unchecked")
    public static Map<String, Object> of(List<Operation> operations) {
        return (Map<String, Object>) inOrder(described(operations));
    }

    /** Maps that keep no order of their own get one. */
    private static Object inOrder(Object part) {
        if (part instanceof Map<?, ?> map) {
            Map<String, Object> ordered = map instanceof LinkedHashMap ? new LinkedHashMap<>() : new TreeMap<>();
            map.forEach((name, value) -> ordered.put(String.valueOf(name), value == null ? null : inOrder(value)));
            return ordered;
        }
        return part instanceof List<?> list
                ? list.stream().map(OpenApi::inOrder).toList()
                : part;
    }

    private static Map<String, Object> described(List<Operation> operations) {
        Map<String, Object> paths = new LinkedHashMap<>();
        for (Operation operation : operations) {
            path(paths, operation.path()).put(operation.method().toLowerCase(Locale.ROOT), describe(operation));
        }
        return Views.object(
                "openapi", "3.1.0",
                "info",
                        Views.object(
                                "title", "Brume",
                                "version", "1",
                                "summary", "Timed jobs that run once across many instances, and can prove it.",
                                "description",
                                        "Times are instants in UTC; what numbers a run is a text. What is not known is null."
                                                + " Whatever is refused is said as RFC 9457 has it.",
                                "license", Views.object("name", "Apache-2.0", "identifier", "Apache-2.0")),
                "servers", List.of(Views.object("url", "/api/v1", "description", "Below the path of the servlet.")),
                "security", List.of(Map.of("token", List.of()), Map.of("signIn", List.of())),
                "tags", tags(operations),
                "paths", paths,
                "components",
                        Views.object(
                                "securitySchemes",
                                Views.object(
                                        "token", Views.object("type", "http", "scheme", "bearer"),
                                        "signIn",
                                                Views.object(
                                                        "type", "apiKey", "in", "cookie", "name", "brume-sign-in")),
                                "responses",
                                Map.of("problem", problemReply()),
                                "schemas",
                                schemas()));
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> path(Map<String, Object> paths, String path) {
        return (Map<String, Object>) paths.computeIfAbsent(path, any -> new LinkedHashMap<String, Object>());
    }

    private static List<Object> tags(List<Operation> operations) {
        TreeSet<String> groups = new TreeSet<>();
        operations.forEach(operation -> groups.add(operation.group()));
        return groups.stream().<Object>map(name -> Map.of("name", name)).toList();
    }

    private static Map<String, Object> describe(Operation operation) {
        Map<String, Object> map = Views.object(
                "operationId", operation.id(),
                "tags", List.of(operation.group()),
                "summary", operation.title(),
                "description",
                        (operation.text().isEmpty() ? "" : operation.text() + " ") + "Takes the role "
                                + operation.role().word()
                                + switch (operation.where()) {
                                    case NAMESPACE -> " in the namespace.";
                                    case ANYWHERE ->
                                        "; what is answered is of the namespaces in which the caller has it.";
                                    case EVERYWHERE -> " everywhere.";
                                },
                "x-role", operation.role().word(),
                "x-where", operation.where().name().toLowerCase(Locale.ROOT),
                "parameters", parameters(operation));
        operation.body().ifPresent(body -> map.put("requestBody", body(operation, body)));
        Map<String, Object> responses = new LinkedHashMap<>();
        responses.put(String.valueOf(operation.answer().status()), answer(operation.answer()));
        responses.put("default", Map.of("$ref", "#/components/responses/problem"));
        map.put("responses", responses);
        return map;
    }

    private static List<Object> parameters(Operation operation) {
        List<Object> all = new ArrayList<>();
        for (String part : operation.path().split("/")) {
            if (part.startsWith("{")) {
                String name = part.substring(1, part.length() - 1);
                all.add(parameter(
                        name,
                        "path",
                        null,
                        Views.object("type", "string"),
                        operation.places().get(name)));
            }
        }
        for (Param<?> param : operation.params()) {
            Object example = param.example().equals("") ? null : param.example();
            all.add(parameter(param.name(), "query", param.says(), param.schema(), example));
        }
        headers(operation)
                .forEach(name ->
                        all.add(parameter(name, "header", HEADERS.get(name), Views.object("type", "string"), null)));
        return all;
    }

    private static List<String> headers(Operation operation) {
        List<String> names = new ArrayList<>();
        if (operation.method().equals("POST") && operation.role() != Role.VIEWER) {
            names.add("Idempotency-Key");
        }
        if (operation.id().equals("defineJob") || operation.id().equals("dropJob")) {
            names.add("If-Match");
        }
        if (operation.text().contains("Prefer:")) {
            names.add("Prefer");
        }
        if (operation.text().contains("Last-Event-ID")) {
            names.add("Last-Event-ID");
        }
        return names;
    }

    private static Map<String, Object> parameter(
            String name, String in, @Nullable String says, Map<String, Object> schema, @Nullable Object example) {
        Map<String, Object> map = Views.object("name", name, "in", in);
        if (in.equals("path")) {
            map.put("required", true);
        }
        if (says != null) {
            map.put("description", says);
        }
        map.put("schema", schema);
        if (example != null) {
            map.put("example", example instanceof Enum<?> word ? word.name() : example);
        }
        return map;
    }

    private static Map<String, Object> body(Operation operation, Operation.Body body) {
        if (body.document()) {
            boolean text = body.example() instanceof String;
            Map<String, Object> content = new LinkedHashMap<>();
            content.put(
                    "application/yaml",
                    text
                            ? Views.object("schema", Views.object("type", "string"), "example", body.example())
                            : Views.object("schema", Views.object("type", "string")));
            content.put(
                    "application/json",
                    text
                            ? Views.object("schema", Views.object("type", "object"))
                            : Views.object("schema", Views.object("type", "object"), "example", body.example()));
            return Views.object("required", true, "content", content);
        }
        Map<String, Object> properties = new LinkedHashMap<>();
        body.members().forEach(member -> properties.put(member.name(), member.schema()));
        List<String> required = body.members().stream()
                .filter(Member::required)
                .map(Member::name)
                .toList();
        Map<String, Object> schema =
                Views.object("type", "object", "properties", properties, "additionalProperties", false);
        if (!required.isEmpty()) {
            schema.put("required", required);
        }
        return Views.object(
                "required",
                !required.isEmpty(),
                "content",
                Map.of("application/json", Views.object("schema", schema, "example", body.example())));
    }

    private static Map<String, Object> answer(Answer answer) {
        Map<String, Object> map = Views.object("description", answer.says());
        if (!answer.type().isEmpty()) {
            map.put(
                    "content",
                    Map.of(
                            answer.type(),
                            answer.schema().isEmpty()
                                    ? Views.object("schema", Views.object("type", "string"))
                                    : Views.object("schema", answer.schema())));
        }
        return map;
    }

    private static Map<String, Object> problemReply() {
        return Views.object(
                "description",
                "It was refused, or could not be answered.",
                "content",
                Map.of("application/problem+json", Views.object("schema", Map.of("$ref", COMPONENTS + "refusal"))));
    }

    /** The vocabulary of views, with its references as they are here. */
    private static Map<String, Object> schemas() {
        Map<String, Object> schemas = new TreeMap<>();
        Views.parts().forEach((name, schema) -> schemas.put(name, moved(schema)));
        for (String output : Views.outputs()) {
            Map<String, Object> schema = new LinkedHashMap<>(Views.schema(output));
            schema.remove("$schema");
            schema.remove("$defs");
            schema.remove("title");
            schemas.putIfAbsent(output.replace(" --", "-").replace(' ', '-'), moved(schema));
        }
        schemas.put("refusal", refusal());
        return schemas;
    }

    private static Map<String, Object> refusal() {
        Map<String, Object> text = Views.object("type", "string");
        Map<String, Object> number = Views.object("type", "integer");
        List<String> types = new ArrayList<>();
        for (Problem.Kind kind : Problem.Kind.values()) {
            types.add(Problem.TYPES + kind.word());
        }
        return Views.object(
                "type",
                "object",
                "description",
                "Why something was refused, as RFC 9457 has it.",
                "properties",
                Views.object(
                        "type", Views.object("type", "string", "enum", types),
                        "title", text,
                        "status", number,
                        "detail", text,
                        "errors",
                                Views.object(
                                        "type",
                                        "array",
                                        "items",
                                        Views.object(
                                                "type", "object",
                                                "properties",
                                                        Views.object(
                                                                "pointer", text,
                                                                "parameter", text,
                                                                "line", number,
                                                                "column", number,
                                                                "detail", text,
                                                                "allowed", Views.object("type", "array", "items", text),
                                                                "suggestion", text),
                                                "required", List.of("detail")))),
                "required",
                List.of("type", "title", "status", "detail"));
    }

    private static Object moved(Object schema) {
        if (schema instanceof Map<?, ?> map) {
            Map<String, Object> copy = new LinkedHashMap<>();
            map.forEach((name, value) -> copy.put(
                    String.valueOf(name),
                    name.equals("$ref") && value instanceof String reference
                            ? reference.replace(DEFINITIONS, COMPONENTS)
                            : moved(value)));
            return copy;
        }
        return schema instanceof List<?> list
                ? list.stream().map(OpenApi::moved).toList()
                : schema;
    }
}
