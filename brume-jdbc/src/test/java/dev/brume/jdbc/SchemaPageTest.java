package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/**
 * Keeps docs/schema.md what the scripts say. To write it anew: {@code mvn install -pl brume-jdbc -Dtest=SchemaPageTest
 * -Dbrume.schema=write}.
 */
class SchemaPageTest {
    private static final Path FILE = Path.of("..", "docs", "schema.md");
    private static final Pattern TABLE = Pattern.compile(
            "((?:-- [^\n]*\n)*)create table (?:if not exists )?(brume_\\w+) \\(\n(.*?)\n\\)", Pattern.DOTALL);
    private static final Pattern INDEX = Pattern.compile(
            "create (unique )?index (?:if not exists )?(\\w+)\\s+on (brume_\\w+) (.*?)(?:;|\n\n)", Pattern.DOTALL);

    private record Table(String about, List<Column> columns, List<String> keys) {}

    private record Column(String name, String type, String about) {}

    private static Map<String, Table> tables(Dialect dialect) {
        Map<String, Table> tables = new TreeMap<>();
        String script = SchemaMigrator.script(dialect, 1);
        Matcher table = TABLE.matcher(script);
        while (table.find()) {
            List<Column> columns = new ArrayList<>();
            List<String> keys = new ArrayList<>();
            StringBuilder about = new StringBuilder();
            for (String line : table.group(3).lines().map(String::strip).toList()) {
                if (line.startsWith("--")) {
                    about.append(about.isEmpty() ? "" : " ")
                            .append(line.substring(2).strip());
                } else if (line.startsWith("primary key") || line.startsWith("unique")) {
                    keys.add(line.replaceAll(",$", ""));
                } else {
                    String[] parts = line.replaceAll(",$", "").split("\\s+", 2);
                    columns.add(new Column(parts[0], parts[1], about.toString()));
                    about.setLength(0);
                }
            }
            tables.put(table.group(2), new Table(comment(table.group(1)), columns, keys));
        }
        Matcher index = INDEX.matcher(script);
        while (index.find()) {
            String unique = index.group(1) == null ? "" : "unique ";
            String on = index.group(4).replaceAll("\\s+", " ").replace("using ", "");
            tables.get(index.group(3)).keys.add(unique + "index " + on);
        }
        return tables;
    }

    private static String comment(String lines) {
        return lines.lines().map(line -> line.substring(2).strip()).collect(Collectors.joining(" "));
    }

    private static String page() {
        StringBuilder page = new StringBuilder("""
                # The tables, one by one

                As the script for PostgreSQL draws them; the others have the same tables and columns in their own types. What they are for
                and who locks them in which order is in [protocol.md](protocol.md). This page is made of the script itself.

                """);
        tables(Dialect.POSTGRESQL).forEach((name, table) -> {
            page.append("## ").append(name).append("\n\n");
            if (!table.about.isEmpty()) {
                page.append(table.about).append("\n\n");
            }
            page.append("| column | type | |\n|---|---|---|\n");
            table.columns.forEach(column -> page.append("| `")
                    .append(column.name)
                    .append("` | ")
                    .append(column.type.replace("|", "\\|"))
                    .append(" | ")
                    .append(column.about)
                    .append(" |\n"));
            page.append('\n');
            table.keys.forEach(key -> page.append("- ").append(key).append('\n'));
            page.append(table.keys.isEmpty() ? "" : "\n");
        });
        return page.toString().stripTrailing() + "\n";
    }

    @Test
    void thePageSaysWhatTheScriptsSay() throws Exception {
        if (System.getProperty("brume.schema", "").equals("write")) {
            Files.writeString(FILE, page());
        }
        assertThat(Files.readString(FILE))
                .as("docs/schema.md; write it anew as SchemaPageTest says")
                .isEqualTo(page());
    }

    @Test
    void everyDatabaseHasTheTablesAndColumnsOfThePage() {
        Map<String, List<String>> ours = names(Dialect.POSTGRESQL);
        assertThat(ours).hasSizeGreaterThan(20);
        for (Dialect dialect : Dialect.values()) {
            Map<String, List<String>> theirs = names(dialect);
            ours.forEach((table, columns) -> assertThat(theirs.get(table))
                    .as(table + " on " + dialect)
                    .isNotNull()
                    .containsAll(columns));
        }
    }

    private static Map<String, List<String>> names(Dialect dialect) {
        Map<String, List<String>> names = new TreeMap<>();
        tables(dialect)
                .forEach((name, table) ->
                        names.put(name, table.columns.stream().map(Column::name).toList()));
        return names;
    }
}
