package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import com.networknt.schema.InputFormat;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import dev.brume.definitions.Views;
import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** Compares what commands print for programs with its schema, which must know every member. */
final class OutputSchemas {
    private final Path folder;
    private final String data;

    OutputSchemas(Path folder, String data) {
        this.folder = folder;
        this.data = data;
    }

    /** Runs a command and checks what it prints; returns that. */
    String check(String output, String... command) throws Exception {
        List<String> words = new ArrayList<>(List.of(command));
        words.addAll(List.of("--data", data));
        boolean lines = output.startsWith("export");
        if (!lines) {
            words.addAll(List.of("--format", "json"));
        }
        Result result = BrumeProcess.run(folder, words.toArray(String[]::new));
        assertThat(result.out()).as("%s: %s", words, result.err()).isNotBlank();
        List<String> documents = lines ? result.out().lines().toList() : List.of(result.out());
        Schema schema = schema(output);
        documents.forEach(document -> assertThat(schema.validate(document, InputFormat.JSON))
                .as("%s printed %s", words, document.substring(0, Math.min(500, document.length())))
                .isEmpty());
        return result.out();
    }

    private static Schema schema(String output) throws Exception {
        Map<String, Object> schema = Views.schema(output);
        refuseWhatIsNotNamed(schema);
        return SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(JSON.std.asString(schema), InputFormat.JSON);
    }

    @SuppressWarnings("unchecked")
    private static void refuseWhatIsNotNamed(Object schema) {
        if (schema instanceof Map<?, ?> map) {
            map.values().forEach(OutputSchemas::refuseWhatIsNotNamed);
            if (map.containsKey("properties")) {
                ((Map<String, Object>) map).putIfAbsent("additionalProperties", false);
            }
        } else if (schema instanceof List<?> list) {
            list.forEach(OutputSchemas::refuseWhatIsNotNamed);
        }
    }
}
