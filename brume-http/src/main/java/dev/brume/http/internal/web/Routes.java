package dev.brume.http.internal.web;

import dev.brume.schedule.Nearest;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.stream.Collectors;

/** Finds the operation that a path and a method mean. Immutable. */
public final class Routes {
    private final List<Operation> operations;
    private final Map<Integer, List<Route>> routes;

    /** An operation, and its path between slashes. */
    private record Route(Operation operation, String[] parts) {}

    /** Creates routes. */
    public Routes(List<Operation> operations) {
        this.operations = List.copyOf(operations);
        this.routes = operations.stream()
                .map(operation ->
                        new Route(operation, operation.path().substring(1).split("/")))
                .collect(Collectors.groupingBy(route -> route.parts.length));
    }

    /**
     * An operation, with what the path has in its places.
     *
     * @param operation that is meant
     * @param places by their names
     */
    public record Found(Operation operation, Map<String, String> places) {}

    /** {@return all operations} */
    public List<Operation> all() {
        return operations;
    }

    /**
     * {@return what a path and a method mean}
     *
     * @param segments of the path, decoded
     */
    public Found find(String method, List<String> segments) {
        List<Found> here = at(segments);
        if (here.isEmpty()) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is nothing at this address" + near(segments));
        }
        String wanted = method.equals("HEAD") ? "GET" : method;
        return here.stream()
                .filter(found -> found.operation.method().equals(wanted))
                .findFirst()
                .orElseThrow(() -> {
                    String allowed = allowed(here);
                    return new Problem(
                                    Problem.Kind.NO_SUCH_METHOD,
                                    Param.shortened(method) + " is not for this address (allowed: " + allowed + ")")
                            .with("Allow", allowed);
                });
    }

    private static String allowed(List<Found> here) {
        TreeSet<String> methods = new TreeSet<>(List.of("OPTIONS"));
        here.forEach(found -> {
            methods.add(found.operation.method());
            if (found.operation.method().equals("GET")) {
                methods.add("HEAD");
            }
        });
        return String.join(", ", methods);
    }

    /** {@return the methods that a path knows; empty if there is nothing at it} */
    public Optional<String> methods(List<String> segments) {
        List<Found> here = at(segments);
        return here.isEmpty() ? Optional.empty() : Optional.of(allowed(here));
    }

    private String near(List<String> segments) {
        List<String> first = operations.stream()
                .map(operation -> operation.path().split("/")[1])
                .distinct()
                .sorted()
                .toList();
        return segments.isEmpty() || first.contains(segments.get(0))
                ? "; /api/v1/openapi.json describes what there is"
                : Nearest.to(Param.shortened(segments.get(0)), first)
                        .map(word -> "; did you mean /api/v1/" + word + "?")
                        .orElse("; /api/v1/openapi.json describes what there is");
    }

    private List<Found> at(List<String> segments) {
        List<Found> here = new ArrayList<>();
        for (Route route : routes.getOrDefault(segments.size(), List.of())) {
            match(route.parts, segments).ifPresent(places -> here.add(new Found(route.operation, places)));
        }
        return here;
    }

    private static Optional<Map<String, String>> match(String[] parts, List<String> segments) {
        for (int i = 0; i < parts.length; i++) {
            if (!parts[i].startsWith("{") && !parts[i].equals(segments.get(i))) {
                return Optional.empty();
            }
        }
        Map<String, String> places = new LinkedHashMap<>();
        for (int i = 0; i < parts.length; i++) {
            if (parts[i].startsWith("{")) {
                places.put(parts[i].substring(1, parts[i].length() - 1), segments.get(i));
            }
        }
        return Optional.of(places);
    }
}
