package dev.brume.spring;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Configuration;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.springframework.boot.SpringBootVersion;

/** What editors know of the properties is what there is; {@code -Dmetadata=write} writes it anew. */
class PropertiesMetadataTest {
    private static final Path FILE = Path.of("src/main/resources/META-INF/spring-configuration-metadata.json");
    private static final Set<String> NUMBERS = Set.of("workers", "batch", "metrics-jobs");
    private static final Set<String> FLAGS = Set.of(
            "enabled",
            "start",
            "join-transactions",
            "run-in-baggage",
            "virtual-threads",
            "log",
            "stop-with-process",
            "calls");
    private static final Set<String> LISTS = Set.of("labels", "takes", "definitions");

    private static String type(String name) {
        if (NUMBERS.contains(name)) {
            return "java.lang.Integer";
        }
        if (FLAGS.contains(name)) {
            return "java.lang.Boolean";
        }
        return LISTS.contains(name) ? "java.util.List<java.lang.String>" : "java.lang.String";
    }

    private static String property(Configuration.Key key) {
        String value = key.usual().matches("true|false|\\d+")
                ? ",\n      \"defaultValue\": "
                        + (FLAGS.contains(key.name()) || NUMBERS.contains(key.name())
                                ? key.usual()
                                : "\"" + key.usual() + "\"")
                : "";
        return "    {\n      \"name\": \"" + key.property() + "\",\n      \"type\": \"" + type(key.name())
                + "\",\n      \"description\": \"" + key.meaning() + " Unless it is set: " + key.usual() + ".\"" + value
                + "\n    }";
    }

    private static String whole() {
        String properties = Stream.concat(Configuration.keys().stream(), BrumeSettings.OWN.stream())
                .map(PropertiesMetadataTest::property)
                .sorted()
                .collect(Collectors.joining(",\n"));
        String jobs = """
                    {
                      "name": "brume.jobs",
                      "type": "java.util.Map<java.lang.String,java.lang.Object>",
                      "description": "Jobs by name, each as in a definition file: when, ifFailed, ifBusy and so on. A job without work is done by the bean that handles its name."
                    }""".indent(0).stripTrailing();
        return "{\n  \"groups\": [],\n  \"properties\": [\n" + properties + ",\n" + jobs + "\n  ],\n  \"hints\": ["
                + hint("schema-changes", List.of("create", "upgrade", "none")) + ", "
                + hint("json", List.of("jackson2", "jackson3")) + "]\n}\n";
    }

    private static String hint(String name, List<String> values) {
        return "{\"name\": \"brume." + name + "\", \"values\": ["
                + values.stream().map(value -> "{\"value\": \"" + value + "\"}").collect(Collectors.joining(", "))
                + "]}";
    }

    @Test
    void editorsKnowAllPropertiesThatThereAre() throws Exception {
        if ("write".equals(System.getProperty("metadata"))) {
            Files.writeString(FILE, whole());
        }
        assertThat(Files.readString(FILE)).isEqualTo(whole());
        assertThat(new com.fasterxml.jackson.databind.ObjectMapper()
                        .readTree(whole())
                        .get("properties"))
                .hasSize(Configuration.keys().size() + BrumeSettings.OWN.size() + 1);
    }

    @Test
    void theTestsRunOnTheLineThatTheyAreMeantFor() {
        assertThat(SpringBootVersion.getVersion()).isEqualTo(System.getProperty("line.spring-boot"));
    }
}
