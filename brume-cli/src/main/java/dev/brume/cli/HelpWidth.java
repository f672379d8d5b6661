package dev.brume.cli;

import java.util.Arrays;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import picocli.CommandLine;
import picocli.CommandLine.Model.UsageMessageSpec;

/** Fits the help of commands to the terminal; what goes on in the next line is indented below what it belongs to. */
final class HelpWidth {
    private static final Pattern BEGINNING = Pattern.compile("^(\\s*)(\\S+\\s{2,})?");
    private static final int HANGING = 4;

    private HelpWidth() {}

    /** Fits a command and those below it. */
    static void fit(CommandLine command, int width) {
        UsageMessageSpec usage = command.getCommandSpec().usageMessage();
        usage.width(width);
        usage.footer(Arrays.stream(usage.footer())
                .flatMap(line -> wrapped(line, width).stream())
                .toArray(String[]::new));
        command.getSubcommands().values().forEach(inner -> fit(inner, width));
    }

    static List<String> wrapped(String line, int width) {
        Matcher beginning = BEGINNING.matcher(line);
        if (line.length() <= width || !beginning.find()) {
            return List.of(line);
        }
        String lead = beginning.group(1);
        int hanging = beginning.group(2) == null
                ? HANGING - lead.length()
                : beginning.group(2).length();
        return Wrap.lines(line.substring(lead.length()), width - lead.length(), Math.max(0, hanging)).stream()
                .map(part -> lead + part)
                .toList();
    }
}
