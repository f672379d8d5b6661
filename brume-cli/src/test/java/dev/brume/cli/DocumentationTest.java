package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;

import dev.brume.definitions.DefinitionFile;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import picocli.CommandLine;

/** What the documentation shows can be done: each definition file is read, each command line understood, each link leads somewhere. */
class DocumentationTest {
    private static final Path ROOT = Path.of("..");
    private static final Pattern YAML = Pattern.compile("```yaml\n(.*?)```", Pattern.DOTALL);
    private static final Pattern WORD = Pattern.compile("\"([^\"]*)\"|'([^']*)'|(\\S+)");
    private static final Pattern LINK = Pattern.compile("\\]\\((?!https?:)([^)#]+)(#[^)]*)?\\)");

    private static final CommandLine BRUME = BrumeCommand.whole();

    @TempDir
    private Path folder;

    static List<Path> pages() throws IOException {
        List<Path> pages = new ArrayList<>(List.of(ROOT.resolve("README.md")));
        try (Stream<Path> docs = Files.walk(ROOT.resolve("docs"))) {
            docs.filter(path -> path.toString().endsWith(".md")).sorted().forEach(pages::add);
        }
        return pages;
    }

    @ParameterizedTest
    @MethodSource("pages")
    void everyDefinitionFileIsRead(Path page) throws IOException {
        Files.writeString(folder.resolve("feasts.ics"), """
                BEGIN:VCALENDAR
                VERSION:2.0
                PRODID:-//Merrow Isles//Feasts//EN
                BEGIN:VEVENT
                UID:lantern-day@merrow.example
                DTSTAMP:20260101T000000Z
                DTSTART;VALUE=DATE:20261224
                END:VEVENT
                END:VCALENDAR
                """.replace("\n", "\r\n"));
        Matcher block = YAML.matcher(Files.readString(page));
        while (block.find()) {
            String text = block.group(1);
            if (text.contains("...\n") || text.contains(": ...")) {
                continue;
            }
            Path file = Files.writeString(folder.resolve("example.yaml"), whole(text));
            assertThatCode(() -> DefinitionFile.read(file))
                    .as("%s:%n%s", page, text)
                    .doesNotThrowAnyException();
        }
    }

    /** Pieces may begin with a job, or within one, and take the zone of their file for granted. */
    private static String whole(String text) {
        String zone =
                Pattern.compile("^zone:", Pattern.MULTILINE).matcher(text).find() ? "" : "zone: Atlantic/Azores\n";
        return zone + jobs(text);
    }

    private static String jobs(String text) {
        if (Pattern.compile("^(jobs|calendars|limits):", Pattern.MULTILINE)
                .matcher(text)
                .find()) {
            return text;
        }
        return text.startsWith("work:") ? "jobs:\n  example:\n" + text.indent(4) : "jobs:\n" + text.indent(2);
    }

    @ParameterizedTest
    @MethodSource("pages")
    void everyCommandLineIsUnderstood(Path page) throws IOException {
        for (String line : Files.readAllLines(page)) {
            if (line.matches("(    (\\./)?|\\$ )brume .*")) {
                for (String command : line.replaceFirst("^\\$ ", "").strip().split("; |&& |\\| ")) {
                    understand(page, command);
                }
            }
        }
    }

    private static void understand(Path page, String command) {
        List<String> words = words(command);
        if (!words.get(0).endsWith("brume")) {
            return;
        }
        String[] args = words.subList(1, words.size()).toArray(String[]::new);
        assertThatCode(() -> BRUME.parseArgs(args)).as("%s: %s", page, command).doesNotThrowAnyException();
    }

    /** As a shell would split them, up to where output goes or a comment begins. */
    private static List<String> words(String command) {
        List<String> words = new ArrayList<>();
        Matcher word = WORD.matcher(command.replaceAll("\"\\$\\([^)]*\\)\"", "CURSOR"));
        while (word.find() && !word.group().matches("[>#].*")) {
            words.add(word.group(1) != null ? word.group(1) : word.group(2) != null ? word.group(2) : word.group(3));
        }
        return words;
    }

    @ParameterizedTest
    @MethodSource("pages")
    void everyLinkLeadsSomewhere(Path page) throws IOException {
        Matcher link = LINK.matcher(Files.readString(page));
        while (link.find()) {
            assertThat(page.getParent().resolve(link.group(1)))
                    .as("%s: %s", page, link.group())
                    .exists();
        }
    }

    @Test
    void examplesOfHelpAreUnderstood() {
        BRUME.getSubcommands().values().forEach(command -> {
            for (String line : command.getCommandSpec().usageMessage().footer()) {
                if (line.strip().startsWith("brume ")) {
                    for (String part : line.strip().split("; |&& |\\| | {4,}")) {
                        understand(Path.of(command.getCommandName()), part);
                    }
                }
            }
        });
    }
}
