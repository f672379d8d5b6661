package dev.brume.definitions;

import dev.brume.internal.document.DocumentProblem;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.common.ScalarStyle;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import org.snakeyaml.engine.v2.nodes.Tag;

/**
 * A YAML or JSON text as plain values, and where each of them stands.
 *
 * <p>YAML 1.2: {@code no} and {@code 010} are texts. A key given twice is an error. Size, depth and
 * number of values are bounded, aliases counted as often as they are used.
 */
final class LocatedDocument {
    private static final int MOST_DEPTH = 40;
    private static final int MOST_VALUES = 2_000_000;

    private final String file;
    /** What stands in mappings that were searched: places are asked for where something is wrong, and once a job. */
    private final IdentityHashMap<MappingNode, Map<String, NodeTuple>> indexes = new IdentityHashMap<>();

    private final List<DefinitionProblem> problems = new ArrayList<>();
    private Optional<Node> top = Optional.empty();
    private Optional<Object> root = Optional.empty();
    private int count;

    private record Place(int line, int column, int textStart) {}

    private LocatedDocument(String file) {
        this.file = file;
    }

    static LocatedDocument read(String file, String text) {
        LocatedDocument document = new LocatedDocument(file);
        LoadSettings settings = LoadSettings.builder()
                .setLabel(file)
                .setCodePointLimit(Integer.MAX_VALUE)
                .setMaxAliasesForCollections(MOST_VALUES)
                .build();
        try {
            document.top = new Compose(settings).composeString(text);
            Object root = document.top.map(node -> document.value(node, 0)).orElse(null);
            document.root = Optional.of(root == null ? Map.of() : root);
        } catch (MarkedYamlEngineException e) {
            Optional<Mark> mark = e.getProblemMark();
            document.problems.add(new DefinitionProblem(
                    file,
                    mark.map(Mark::getLine).orElse(0) + 1,
                    mark.map(Mark::getColumn).orElse(0) + 1,
                    "",
                    "not YAML: " + e.getProblem() + (e.getContext() == null ? "" : " (" + e.getContext() + ")")));
        } catch (YamlEngineException e) {
            document.problems.add(new DefinitionProblem(file, 1, 1, "", "not YAML: " + firstLine(e)));
        } catch (StackOverflowError e) {
            document.problems.add(new DefinitionProblem(file, 1, 1, "", "is nested too deeply"));
        }
        return document;
    }

    private static String firstLine(Exception e) {
        String text = String.valueOf(e.getMessage());
        int end = text.indexOf('\n');
        return end < 0 ? text : text.substring(0, end);
    }

    /** {@return what the file holds; empty if it could not be read} */
    Optional<Object> root() {
        return root;
    }

    List<DefinitionProblem> problems() {
        return problems;
    }

    /** Finds the line and column of a problem. */
    DefinitionProblem locate(DocumentProblem problem) {
        Optional<Place> exact =
                (problem.atKey() ? key(problem.path()) : node(problem.path())).map(LocatedDocument::place);
        String path = problem.path();
        while (exact.isEmpty() && !path.isEmpty()) {
            path = parent(path);
            exact = node(path).map(LocatedDocument::place);
        }
        Place found = exact.orElse(new Place(0, 0, 0));
        int column = problem.offset() == 0 || problem.atKey() ? found.column() : found.textStart() + problem.offset();
        return new DefinitionProblem(file, found.line() + 1, column + 1, pointer(problem.path()), describe(problem));
    }

    /** {@return the line of a key, counted from 1} */
    int lineOf(String path) {
        return key(path).map(node -> place(node).line() + 1).orElse(1);
    }

    private Optional<Node> key(String path) {
        return tuple(path).map(NodeTuple::getKeyNode);
    }

    private Optional<Node> node(String path) {
        return path.isEmpty() ? top : top.flatMap(node -> find(node, path));
    }

    private Optional<NodeTuple> tuple(String path) {
        int slash = path.lastIndexOf('/');
        return node(parent(path))
                .filter(MappingNode.class::isInstance)
                .map(mapping -> index((MappingNode) mapping).get(path.substring(slash + 1)));
    }

    private Optional<Node> find(Node node, String path) {
        int slash = path.indexOf('/');
        String first = slash < 0 ? path : path.substring(0, slash);
        Optional<Node> inner = Optional.empty();
        if (node instanceof MappingNode mapping) {
            inner = Optional.ofNullable(index(mapping).get(first)).map(NodeTuple::getValueNode);
        } else if (node instanceof SequenceNode sequence && first.matches("\\d{1,9}")) {
            inner = sequence.getValue().stream().skip(Integer.parseInt(first)).findFirst();
        }
        return slash < 0 ? inner : inner.flatMap(found -> find(found, path.substring(slash + 1)));
    }

    private Map<String, NodeTuple> index(MappingNode mapping) {
        return indexes.computeIfAbsent(mapping, any -> {
            Map<String, NodeTuple> index = new HashMap<>();
            for (NodeTuple tuple : mapping.getValue()) {
                if (tuple.getKeyNode() instanceof ScalarNode key) {
                    index.putIfAbsent(key.getValue(), tuple);
                }
            }
            return index;
        });
    }

    private static String describe(DocumentProblem problem) {
        String path = problem.atKey() ? parent(problem.path()) : problem.path();
        return (path.isEmpty() ? "" : path.replaceFirst("^jobs/", "") + ": ") + problem.message();
    }

    /** {@return a path as RFC 6901 writes it; names in documents have no slash} */
    private static String pointer(String path) {
        return path.isEmpty() ? "" : "/" + path.replace("~", "~0");
    }

    private static String parent(String path) {
        int slash = path.lastIndexOf('/');
        return slash < 0 ? "" : path.substring(0, slash);
    }

    private @Nullable Object value(Node node, int depth) {
        if (depth > MOST_DEPTH || ++count > MOST_VALUES) {
            throw new YamlEngineException(depth > MOST_DEPTH ? "nested too deeply" : "too many values");
        }
        if (node instanceof MappingNode mapping) {
            return mapping(mapping, depth);
        }
        if (node instanceof SequenceNode sequence) {
            List<@Nullable Object> list = new ArrayList<>();
            for (Node item : sequence.getValue()) {
                list.add(value(item, depth + 1));
            }
            return list;
        }
        return scalar((ScalarNode) node);
    }

    private Map<String, @Nullable Object> mapping(MappingNode mapping, int depth) {
        Map<String, @Nullable Object> map = new LinkedHashMap<>();
        for (NodeTuple tuple : mapping.getValue()) {
            Place place = place(tuple.getKeyNode());
            if (!(tuple.getKeyNode() instanceof ScalarNode key)) {
                problems.add(
                        new DefinitionProblem(file, place.line() + 1, place.column() + 1, "", "a key must be a text"));
                continue;
            }
            String name = key.getValue();
            if (map.containsKey(name)) {
                int first = place(Objects.requireNonNull(index(mapping).get(name), name)
                                        .getKeyNode())
                                .line()
                        + 1;
                problems.add(new DefinitionProblem(
                        file,
                        place.line() + 1,
                        place.column() + 1,
                        "",
                        "'" + name + "' is given twice (first on line " + first + ")"));
                continue;
            }
            map.put(name, value(tuple.getValueNode(), depth + 1));
        }
        return map;
    }

    private static @Nullable Object scalar(ScalarNode node) {
        String text = node.getValue();
        Tag tag = node.getTag();
        if (tag.equals(Tag.NULL)) {
            return null;
        }
        if (tag.equals(Tag.BOOL)) {
            return Boolean.valueOf(text);
        }
        if (tag.equals(Tag.INT) && text.matches("-?\\d{1,9}")) {
            return Integer.valueOf(text);
        }
        if (tag.equals(Tag.FLOAT) && text.matches("-?[0-9.eE+-]+")) {
            return Double.valueOf(text);
        }
        return text;
    }

    private static Place place(Node node) {
        Mark mark = node.getStartMark().orElseThrow();
        boolean quoted = node instanceof ScalarNode scalar
                && (scalar.getScalarStyle() == ScalarStyle.DOUBLE_QUOTED
                        || scalar.getScalarStyle() == ScalarStyle.SINGLE_QUOTED);
        return new Place(mark.getLine(), mark.getColumn(), mark.getColumn() + (quoted ? 1 : 0));
    }
}
