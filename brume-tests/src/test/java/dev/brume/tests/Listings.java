package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * What the documents show of the command: each command in them is run, and prints what they say, times, durations, numbers and
 * spaces aside. A line of dots stands for any lines.
 *
 * <p>Run ids differ from one demo to the next: one that a later command names is the one that stood in its place before.
 */
final class Listings {
    private static final Pattern BLOCK = Pattern.compile("```console\n(.*?)```", Pattern.DOTALL);
    private static final Pattern FIRST_NUMBER = Pattern.compile("^\\s*(\\d+)\\s");
    private static final Pattern WORD = Pattern.compile("\"([^\"]*)\"|'([^']*)'|(\\S+)");

    private final Path folder;
    private final Map<String, String> ids = new HashMap<>();

    /** Runs commands in a folder. */
    Listings(Path folder) {
        this.folder = folder;
    }

    /** {@return how many commands of a page were compared} */
    int check(Path page) throws Exception {
        int commands = 0;
        Matcher block = BLOCK.matcher(Files.readString(page));
        while (block.find()) {
            for (String part : block.group(1).split("(?m)^\\$ ")) {
                if (!part.isBlank()) {
                    compare(page, part.lines().toList());
                    commands++;
                }
            }
        }
        return commands;
    }

    private void compare(Path page, List<String> lines) throws Exception {
        List<String> expected = lines.subList(1, lines.size()).stream()
                .filter(line -> !line.isBlank())
                .toList();
        List<String> words = words(lines.get(0));
        assertThat(words.get(0)).as("a command in %s", page).isEqualTo("brume");
        BrumeProcess.Result result = Commands.run(
                folder,
                Map.of("BRUME_COLUMNS", "80", "BRUME_DATA", folder.toString()),
                words.subList(1, words.size()).toArray(String[]::new));
        List<String> actual = (result.out() + result.err())
                .lines()
                .filter(line -> !line.isBlank())
                .toList();
        assertThat(plain(String.join(" ", actual)))
                .as("%s: %s prints%n%s", page, lines.get(0), String.join("\n", actual))
                .matches(pattern(expected));
        remember(numbers(expected), numbers(actual));
    }

    private List<String> words(String command) throws IOException {
        List<String> words = new ArrayList<>();
        Matcher word = WORD.matcher(command);
        while (word.find()) {
            String text = word.group(1) != null ? word.group(1) : word.group(2) != null ? word.group(2) : word.group(3);
            words.add(ids.getOrDefault(text, text));
        }
        return words;
    }

    /** Where lines break depends on how long numbers and times are, so that all is compared as one line. */
    private static Pattern pattern(List<String> expected) {
        return Pattern.compile(Stream.of(String.join("\n", expected).split("(?m)^\\.\\.\\.$", -1))
                .map(part -> Pattern.quote(plain(part.replace('\n', ' '))))
                .collect(Collectors.joining(".*")));
    }

    private static List<String> numbers(List<String> lines) {
        return lines.stream()
                .map(FIRST_NUMBER::matcher)
                .filter(Matcher::find)
                .map(number -> number.group(1))
                .toList();
    }

    private void remember(List<String> shown, List<String> printed) {
        for (int i = 0; i < Math.min(shown.size(), printed.size()); i++) {
            ids.putIfAbsent(shown.get(i), printed.get(i));
        }
    }

    /** Without what differs from one demo to another. */
    private static String plain(String line) {
        return line.strip()
                .replaceAll("[0-9a-f]{64}", "#")
                .replaceAll("\\b(Mon|Tue|Wed|Thu|Fri|Sat|Sun)\\b", "Day")
                .replaceAll("[+-]?\\d[\\d:.,TZ+-]*(ms|[smhd])?(\\d+[smh])?", "#")
                .replaceAll("\\bnow\\b|\\bin #|# ago\\b", "#")
                .replaceAll("\\s+", " ")
                .replaceAll("(# )+#", "#");
    }
}
