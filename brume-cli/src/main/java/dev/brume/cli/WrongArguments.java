package dev.brume.cli;

import dev.brume.schedule.Durations;
import dev.brume.schedule.Nearest;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.PrintWriter;
import java.time.Duration;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import picocli.CommandLine;
import picocli.CommandLine.IParameterExceptionHandler;
import picocli.CommandLine.MissingParameterException;
import picocli.CommandLine.Model.ArgSpec;
import picocli.CommandLine.Model.OptionSpec;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.TypeConversionException;
import picocli.CommandLine.UnmatchedArgumentException;

/** Says what is wrong with a command line in a line, and where to read on, rather than in front of a page of help. */
final class WrongArguments implements IParameterExceptionHandler {
    private static final Pattern VALUE_OF = Pattern.compile(
            "^Invalid value for (?:option '([^']+)'(?: \\([^)]*\\))?|positional parameter at index \\S+ \\(([^)]+)\\)): ");
    private static final Pattern TOGETHER = Pattern.compile("^(?i:error): (.+) are mutually exclusive");
    private static final Pattern CHOICE =
            Pattern.compile("expected one of \\[([^]]+)] \\(case-insensitive\\) but was ('.*')$");

    /** Makes it say what is wrong, in all commands. */
    static void register(CommandLine line) {
        line.registerConverter(Integer.class, text -> (int) number(text, Integer.MIN_VALUE, Integer.MAX_VALUE));
        line.registerConverter(int.class, text -> (int) number(text, Integer.MIN_VALUE, Integer.MAX_VALUE));
        line.registerConverter(Long.class, text -> number(text, Long.MIN_VALUE, Long.MAX_VALUE));
        line.registerConverter(long.class, text -> number(text, Long.MIN_VALUE, Long.MAX_VALUE));
        line.registerConverter(Duration.class, WrongArguments::duration);
        line.setParameterExceptionHandler(new WrongArguments());
    }

    private static Duration duration(String text) {
        try {
            return Durations.parse(text);
        } catch (ScheduleSyntaxException e) {
            throw new TypeConversionException(UsageException.sentence(e));
        }
    }

    private static long number(String text, long least, long most) {
        if (!text.matches("[+-]?\\d+")) {
            throw new TypeConversionException("'" + text + "' is not a whole number");
        }
        long number = text.length() > 19 ? Long.MIN_VALUE : Long.parseLong(text);
        if (number < least || number > most || text.length() > 19) {
            throw new TypeConversionException(
                    "'" + text + "' is far too " + (text.startsWith("-") ? "small" : "large"));
        }
        return number;
    }

    @Override
    public int handleParseException(ParameterException wrong, String[] args) {
        CommandLine command = wrong.getCommandLine();
        PrintWriter err = command.getErr();
        if (args.length == 0) {
            command.usage(err);
        } else {
            err.println("brume: " + sentence(wrong, command));
            err.println("(" + command.getCommandSpec().qualifiedName() + " --help says what it takes)");
        }
        return command.getCommandSpec().exitCodeOnInvalidInput();
    }

    private static String sentence(ParameterException wrong, CommandLine command) {
        String said = String.valueOf(wrong.getMessage()).lines().findFirst().orElse("");
        if (wrong instanceof UnmatchedArgumentException unmatched) {
            return unmatched(unmatched, command);
        }
        if (wrong instanceof MissingParameterException missing
                && !missing.getMissing().isEmpty()) {
            return missing(missing.getMissing(), said);
        }
        Matcher of = VALUE_OF.matcher(said);
        if (of.find()) {
            String name = of.group(1) == null ? of.group(2) : of.group(1);
            return name + ": " + choice(said.substring(of.end()));
        }
        Matcher together = TOGETHER.matcher(said);
        return together.find()
                ? together.group(1).replaceAll("=[^,]*", "").replace(", ", " and ") + " do not go together"
                : said;
    }

    private static String unmatched(UnmatchedArgumentException unmatched, CommandLine command) {
        String first = unmatched.getUnmatched().get(0);
        if (unmatched.isUnknownOption()) {
            Collection<String> known = command.getCommandSpec().optionsMap().keySet();
            return "there is no option '" + first + "'" + (first.startsWith("--") ? suggestion(first, known) : "");
        }
        Collection<String> commands = command.getSubcommands().keySet();
        return commands.isEmpty()
                ? "'" + first + "' is not expected here (a value of several words belongs in quotes)"
                : "there is no command '" + first + "'" + suggestion(first, commands);
    }

    private static String suggestion(String written, Collection<String> known) {
        return Nearest.to(written, known)
                .map(near -> "; did you mean " + near + "?")
                .orElse("");
    }

    private static String missing(List<ArgSpec> missing, String said) {
        List<String> names = missing.stream().map(WrongArguments::name).toList();
        if (said.startsWith("Expected parameter") || said.contains(" for option ")) {
            return names.get(0) + " needs a value: " + missing.get(0).paramLabel();
        }
        boolean oneOf = said.contains("one of these");
        return (oneOf ? "one of these is missing: " : "missing: ") + String.join(", ", names);
    }

    private static String name(ArgSpec argument) {
        return argument instanceof OptionSpec option ? option.longestName() : argument.paramLabel();
    }

    /** Words as they are written on a command line, not as constants are. */
    private static String choice(String said) {
        Matcher wrong = CHOICE.matcher(said);
        return wrong.find()
                ? wrong.group(2) + " is not one of "
                        + String.join(
                                ", ",
                                Arrays.stream(wrong.group(1).split(", "))
                                        .map(word -> word.toLowerCase(Locale.ROOT))
                                        .toList())
                : said;
    }
}
