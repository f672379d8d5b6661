package dev.brume.cli;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import picocli.CommandLine;
import picocli.CommandLine.Help;

/** The commands in groups, each with the first sentence of what it does. */
final class CommandList {
    static final Map<String, List<String>> GROUPS = new LinkedHashMap<>();
    private static final String MARGIN = "  ";
    private static final int INDENT = 14;

    static {
        GROUPS.put("Run", List.of("demo", "serve", "vigil", "console", "echo"));
        GROUPS.put("Before a change", List.of("check", "preview", "explain", "rehearse", "diff", "sync", "import"));
        GROUPS.put(
                "Look",
                List.of(
                        "jobs",
                        "runs",
                        "show",
                        "why",
                        "doctor",
                        "stats",
                        "instances",
                        "named-leases",
                        "notices",
                        "pauses",
                        "calendars",
                        "namespaces"));
        GROUPS.put("Account", List.of("tally", "changes", "seal", "export", "keep", "roll-up", "erase"));
        GROUPS.put(
                "Order",
                List.of(
                        "run-now",
                        "rerun",
                        "one-off",
                        "backfill",
                        "skip",
                        "cancel",
                        "pause",
                        "resume",
                        "rename",
                        "revert",
                        "drop"));
        GROUPS.put(
                "Operate", List.of("token", "allowance", "definitions", "drain", "restored", "schema", "completion"));
    }

    private CommandList() {}

    /** Writes the list; a command that no group names comes last, so that none is ever missing. */
    static String of(Help help) {
        int width = help.commandSpec().usageMessage().width();
        Map<String, CommandLine> commands =
                new LinkedHashMap<>(help.commandSpec().subcommands());
        StringBuilder text = new StringBuilder();
        GROUPS.forEach((group, names) -> {
            if (names.stream().anyMatch(commands::containsKey)) {
                text.append(String.format("%n%s:%n", group));
            }
            for (String name : names) {
                Optional.ofNullable(commands.remove(name)).ifPresent(command -> append(text, name, command, width));
            }
        });
        commands.forEach((name, command) -> append(text, name, command, width));
        return text.toString();
    }

    private static void append(StringBuilder text, String name, CommandLine command, int width) {
        String[] description = command.getCommandSpec().usageMessage().description();
        String first =
                description.length == 0 ? "" : description[0].split("(?<=[.:;]) ", 2)[0].replaceAll("[:;]$", ".");
        Wrap.lines(name + " ".repeat(Math.max(1, INDENT - name.length())) + first, width - MARGIN.length(), INDENT)
                .forEach(line -> text.append(MARGIN).append(line).append(String.format("%n")));
    }
}
