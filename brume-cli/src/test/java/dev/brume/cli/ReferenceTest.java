package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.definitions.DefinitionFile;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import picocli.CommandLine;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.Model.PositionalParamSpec;

/**
 * Keeps docs/reference.md what the commands and the schema of definition files say. To write it anew:
 *
 * <pre>mvn -pl brume-cli -am test -Dtest=ReferenceTest -Dsurefire.failIfNoSpecifiedTests=false -Dbrume.reference=write</pre>
 */
class ReferenceTest {
    private static final Path FILE = Path.of("..", "docs", "reference.md");

    @Test
    void theReferenceIsWhatTheCommandsAndTheSchemaSay() throws IOException {
        String text = text();
        if ("write".equals(System.getProperty("brume.reference"))) {
            Files.writeString(FILE, text);
        }
        assertThat(Files.readString(FILE))
                .as("docs/reference.md; write it anew as ReferenceTest says")
                .isEqualTo(text);
    }

    private static String text() throws IOException {
        StringBuilder text =
                new StringBuilder("# Reference\n\nMade of the commands and of the schema of definition files"
                        + " themselves; a test keeps it so.\n");
        CommandLine brume = BrumeCommand.whole();
        CommandList.GROUPS.forEach((group, names) -> {
            text.append("\n## ").append(group).append('\n');
            names.forEach(
                    name -> append(text, "brume " + name, brume.getSubcommands().get(name)));
        });
        appendSchema(text);
        return text.toString();
    }

    private static void append(StringBuilder text, String name, CommandLine command) {
        CommandSpec spec = command.getCommandSpec();
        text.append("\n### ")
                .append(name)
                .append("\n\n")
                .append(String.join(" ", spec.usageMessage().description()));
        text.append('\n');
        Stream<String> positional = spec.positionalParameters().stream().map(ReferenceTest::row);
        Stream<String> options = spec.options().stream()
                .filter(option -> !option.usageHelp() && !option.versionHelp() && !option.hidden())
                .map(ReferenceTest::row);
        List<String> rows = Stream.concat(positional, options).toList();
        if (!rows.isEmpty()) {
            text.append("\n| | |\n|---|---|\n");
            rows.forEach(text::append);
        }
        List<String> footer = List.of(spec.usageMessage().footer());
        if (!footer.isEmpty()) {
            String heading =
                    String.format(spec.usageMessage().footerHeading()).strip().replace("\n\n", " ");
            text.append('\n').append(heading).append("\n\n");
            footer.forEach(line ->
                    text.append(line.isEmpty() ? "" : "    " + line.strip()).append('\n'));
        }
        command.getSubcommands().forEach((sub, nested) -> append(text, name + " " + sub, nested));
    }

    private static String row(PositionalParamSpec parameter) {
        return "| `" + parameter.paramLabel() + "` | " + words(parameter) + " |\n";
    }

    private static String row(OptionSpec option) {
        String names = Stream.of(option.names()).collect(Collectors.joining(", "));
        String value = option.arity().max() == 0 ? "" : " " + option.paramLabel();
        return "| `" + (names + value).replace("|", "\\|") + "` | " + words(option) + " |\n";
    }

    private static String words(ArgSpec argument) {
        return ManualPage.words(argument).replace("|", "\\|");
    }

    @SuppressWarnings("unchecked")
    private static void appendSchema(StringBuilder text) throws IOException {
        Map<String, Object> schema = JSON.std.mapFrom(DefinitionFile.schema());
        text.append("\n## The definition file\n\nThe JSON Schema itself: `brume schema definitions`. In more words:")
                .append(" [definitions.md](definitions.md).\n");
        append(text, "the file", (Map<String, Object>) schema.get("properties"));
        Map<String, Object> parts = (Map<String, Object>) schema.get("$defs");
        parts.forEach((name, part) -> {
            Object properties = ((Map<String, Object>) part).get("properties");
            if (properties != null) {
                append(text, name, (Map<String, Object>) properties);
            }
        });
    }

    @SuppressWarnings("unchecked")
    private static void append(StringBuilder text, String name, Map<String, Object> properties) {
        text.append("\n### Keys of ").append(name).append("\n\n| key | |\n|---|---|\n");
        properties.forEach((key, value) -> text.append("| `")
                .append(key)
                .append("` | ")
                .append(meaning((Map<String, Object>) value).replace("|", "\\|"))
                .append(" |\n"));
    }

    private static String meaning(Map<String, Object> property) {
        Object description = property.get("description");
        if (description != null) {
            return description.toString();
        }
        Object reference = property.get("$ref");
        if (reference != null) {
            return "see " + reference.toString().replaceAll(".*/", "");
        }
        Object options = property.get("enum");
        Object type = property.get("type");
        return options != null ? "one of " + options : type != null ? type.toString() : "";
    }
}
