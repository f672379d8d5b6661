package dev.brume.jdbc;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * Puts the schema before the names of tables, sequences and functions in SQL.
 *
 * <p>Which names those are is what the scripts create; names of indexes and triggers stay bare. Safe for use by many threads.
 */
final class SchemaNames {
    /** Most of a process's statements are the same few hundred texts. */
    private static final int MOST = 2000;

    private static final Pattern CREATED =
            Pattern.compile("(?im)^\\s*create (?:table|sequence|function) (?:if not exists )?(brume_\\w+)");

    /** The tables that are created outside the scripts. */
    private static final List<String> BESIDE = List.of("brume_schema", "brume_turn");

    private static final Pattern NAMES = Pattern.compile(
            Stream.concat(BESIDE.stream(), created()).distinct().collect(Collectors.joining("|", "\\b(", ")\\b")));

    private final Optional<String> schema;
    private final Map<String, String> known = new ConcurrentHashMap<>();

    SchemaNames(Optional<String> schema) {
        this.schema = schema;
    }

    private static Stream<String> created() {
        return Arrays.stream(Dialect.values())
                .flatMap(dialect -> IntStream.rangeClosed(1, SchemaMigrator.NEWEST)
                        .mapToObj(version -> SchemaMigrator.script(dialect, version)))
                .flatMap(script -> CREATED.matcher(script).results())
                .map(found -> found.group(1));
    }

    String in(String sql) {
        if (schema.isEmpty()) {
            return sql;
        }
        if (known.size() > MOST) {
            known.clear();
        }
        return known.computeIfAbsent(sql, text -> NAMES.matcher(text).replaceAll(schema.get() + ".$1"));
    }
}
