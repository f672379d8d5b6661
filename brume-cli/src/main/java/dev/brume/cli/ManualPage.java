package dev.brume.cli;

import java.io.PrintStream;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import picocli.CommandLine;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Model.OptionSpec;

/**
 * Writes the manual page of the command, brume(1), as what the commands say of themselves; in the macros of man(7). The build calls it.
 */
final class ManualPage {
    private final List<String> lines = new ArrayList<>();

    private ManualPage() {}

    /** Prints the page, in ASCII. */
    public static void main(String[] args) {
        PrintStream out = System.out;
        text().forEach(out::println);
        out.flush();
    }

    static List<String> text() {
        ManualPage page = new ManualPage();
        CommandLine brume = BrumeCommand.whole();
        page.lines.add(".TH BRUME 1 \"\" \"" + escaped(Version.text().replaceFirst(",.*", "")) + "\" \"Brume\"");
        page.section("NAME");
        page.lines.add("brume \\- " + escaped(description(brume)).replaceFirst("\\.$", ""));
        page.section("SYNOPSIS");
        page.lines.add("\\fBbrume\\fR \\fICOMMAND\\fR [\\fIOPTIONS\\fR]");
        CommandList.GROUPS.forEach((group, names) -> {
            page.section(group.toUpperCase(Locale.ROOT));
            names.forEach(
                    name -> page.command("brume " + name, brume.getSubcommands().get(name)));
        });
        page.section("EXIT STATUS");
        Stream.of(brume.getCommandSpec().usageMessage().footer())
                .map(String::strip)
                .filter(line -> line.matches("\\d+  .*"))
                .forEach(line -> page.entry(
                        "\\fB" + line.substring(0, line.indexOf(' ')) + "\\fR",
                        line.substring(line.indexOf(' ')).strip()));
        return page.lines;
    }

    private void section(String name) {
        lines.add(".SH \"" + escaped(name) + "\"");
    }

    private void entry(String term, String text) {
        lines.add(".TP");
        lines.add(term);
        lines.add(escaped(text));
    }

    private void command(String name, CommandLine command) {
        CommandSpec spec = command.getCommandSpec();
        lines.add(".SS \"" + escaped(name) + "\"");
        lines.add(escaped(description(command)));
        spec.positionalParameters()
                .forEach(parameter -> entry("\\fI" + escaped(parameter.paramLabel()) + "\\fR", words(parameter)));
        spec.options().stream()
                .filter(option -> !option.usageHelp() && !option.versionHelp() && !option.hidden())
                .forEach(option -> entry(term(option), words(option)));
        String[] footer = spec.usageMessage().footer();
        if (footer.length > 0) {
            lines.add(".PP");
            lines.add(escaped(
                    String.format(spec.usageMessage().footerHeading()).strip().replaceAll("\\s+", " ")));
            lines.add(".PP");
            lines.add(".nf");
            Stream.of(footer).forEach(line -> lines.add(escaped(line)));
            lines.add(".fi");
        }
        command.getSubcommands().forEach((sub, nested) -> command(name + " " + sub, nested));
    }

    private static String term(OptionSpec option) {
        String names = String.join(
                ", ",
                Stream.of(option.names())
                        .map(name -> "\\fB" + escaped(name) + "\\fR")
                        .toList());
        return option.arity().max() == 0 ? names : names + " \\fI" + escaped(option.paramLabel()) + "\\fR";
    }

    /** {@return what an argument means, with its default filled in; one that is whoever asks is not} */
    static String words(ArgSpec argument) {
        return String.join(" ", argument.description())
                .replace("default: " + System.getProperty("user.name") + ".", "default: the user's name.");
    }

    private static String description(CommandLine command) {
        return String.join(" ", command.getCommandSpec().usageMessage().description());
    }

    /** Backslashes, hyphens that are to stay hyphens, and lines that would begin like a request. */
    private static String escaped(String text) {
        String plain = text.replace("\\", "\\e").replace("-", "\\-").replace("\"", "\\(dq");
        return plain.startsWith(".") || plain.startsWith("'") ? "\\&" + plain : plain;
    }
}
