package dev.brume.cli;

import dev.brume.NotThereException;
import dev.brume.StoreException;
import dev.brume.cli.desk.Garbled;
import dev.brume.cli.desk.Refused;
import dev.brume.definitions.DefinitionsException;
import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.Supplier;
import picocli.CommandLine;
import picocli.CommandLine.Command;

/** The command and what all its subcommands share: streams, errors, exit codes. */
@Command(
        name = "brume",
        mixinStandardHelpOptions = true,
        versionProvider = Version.class,
        synopsisSubcommandLabel = "COMMAND",
        description = "Timed jobs that run once across many instances, and can prove it.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0  done",
            "  1  there is no such job, run or other thing, or a check found something",
            "  2  the command line, an expression or a definition file is wrong; nothing was changed",
            "  3  the database cannot be reached or written",
            "  4  the command stopped waiting before it happened",
            "",
            "Start with:  brume demo"
        })
final class BrumeCommand implements Runnable {
    /** In the order in which help lists them. */
    private static final Map<String, Supplier<Object>> COMMANDS = new LinkedHashMap<>();

    /** More of a kind come from one mistake, such as a key that no version has. */
    private static final int ERRORS_OF_A_KIND = 20;

    /** Knows all the others, and is told of them. */
    private static final String HELP = "help";

    static {
        COMMANDS.put("demo", DemoCommand::new);
        COMMANDS.put("serve", ServeCommand::new);
        COMMANDS.put("console", ConsoleCommand::new);
        COMMANDS.put("token", TokenCommand::new);
        COMMANDS.put("jobs", JobsCommand::new);
        COMMANDS.put("runs", RunsCommand::new);
        COMMANDS.put("show", ShowCommand::new);
        COMMANDS.put("why", WhyCommand::new);
        COMMANDS.put("doctor", DoctorCommand::new);
        COMMANDS.put("tally", TallyCommand::new);
        COMMANDS.put("stats", StatsCommand::new);
        COMMANDS.put("changes", ChangesCommand::new);
        COMMANDS.put("seal", SealCommand::new);
        COMMANDS.put("export", ExportCommand::new);
        COMMANDS.put("instances", InstancesCommand::new);
        COMMANDS.put("named-leases", NamedLeasesCommand::new);
        COMMANDS.put("notices", NoticesCommand::new);
        COMMANDS.put("vigil", VigilCommand::new);
        COMMANDS.put("calendars", CalendarsCommand::new);
        COMMANDS.put("namespaces", NamespacesCommand::new);
        COMMANDS.put("preview", PreviewCommand::new);
        COMMANDS.put("explain", ExplainCommand::new);
        COMMANDS.put("check", CheckCommand::new);
        COMMANDS.put("import", ImportCommand::new);
        COMMANDS.put("rehearse", RehearseCommand::new);
        COMMANDS.put("diff", DiffCommand::new);
        COMMANDS.put("sync", SyncCommand::new);
        COMMANDS.put("run-now", RunNowCommand::new);
        COMMANDS.put("erase", EraseCommand::new);
        COMMANDS.put("rerun", RerunCommand::new);
        COMMANDS.put("backfill", BackfillCommand::new);
        COMMANDS.put("skip", SkipCommand::new);
        COMMANDS.put("cancel", CancelCommand::new);
        COMMANDS.put("pause", PauseCommand::new);
        COMMANDS.put("pauses", PausesCommand::new);
        COMMANDS.put("resume", ResumeCommand::new);
        COMMANDS.put("echo", EchoCommand::new);
        COMMANDS.put("one-off", OneOffCommand::new);
        COMMANDS.put("drain", DrainCommand::new);
        COMMANDS.put("rename", RenameCommand::new);
        COMMANDS.put("revert", RevertCommand::new);
        COMMANDS.put("drop", DropCommand::new);
        COMMANDS.put("keep", KeepCommand::new);
        COMMANDS.put("allowance", AllowanceCommand::new);
        COMMANDS.put("definitions", DefinitionsCommand::new);
        COMMANDS.put("roll-up", RollUpCommand::new);
        COMMANDS.put("restored", RestoredCommand::new);
        COMMANDS.put("schema", SchemaCommand::new);
        COMMANDS.put("completion", CompletionCommand::new);
        COMMANDS.put(HELP, CommandLine.HelpCommand::new);
    }

    private final CommandLine.Model.CommandSpec[] spec = new CommandLine.Model.CommandSpec[1];

    @CommandLine.Spec
    void spec(CommandLine.Model.CommandSpec own) {
        spec[0] = own;
    }

    /** Runs the command; the process is left alone. */
    static int run(String[] args, PrintStream out, PrintStream err) {
        CommandLine line = new CommandLine(new BrumeCommand());
        addCommands(line, args);
        line.setOut(new PrintWriter(out, true, StandardCharsets.UTF_8));
        line.setErr(new PrintWriter(err, true, StandardCharsets.UTF_8));
        line.setExecutionStrategy(new Watching());
        line.setExecutionExceptionHandler((e, command, result) -> report(e, command));
        WrongArguments.register(line);
        line.setCaseInsensitiveEnumValuesAllowed(true);
        HelpWidth.fit(line, LookOptions.terminalWidth());
        line.getHelpSectionMap().put(CommandLine.Model.UsageMessageSpec.SECTION_KEY_COMMAND_LIST_HEADING, help -> "");
        line.getHelpSectionMap().put(CommandLine.Model.UsageMessageSpec.SECTION_KEY_COMMAND_LIST, CommandList::of);
        line.setColorScheme(CommandLine.Help.defaultColorScheme(CommandLine.Help.Ansi.OFF));
        return line.execute(args);
    }

    /** {@return the command with all its subcommands} */
    static CommandLine whole() {
        CommandLine line = new CommandLine(new BrumeCommand());
        addCommands(line, new String[0]);
        WrongArguments.register(line);
        return line.setCaseInsensitiveEnumValuesAllowed(true);
    }

    /** The one that is called is enough; all of them take a good part of what a short command takes. */
    private static void addCommands(CommandLine line, String[] args) {
        Supplier<Object> called = args.length == 0 || args[0].equals(HELP) ? null : COMMANDS.get(args[0]);
        if (called != null) {
            line.addSubcommand(called.get());
        } else {
            COMMANDS.values().forEach(command -> line.addSubcommand(command.get()));
        }
    }

    @Override
    public void run() {
        throw new CommandLine.ParameterException(spec[0].commandLine(), "a command is missing");
    }

    static int report(Exception e, CommandLine command) {
        PrintWriter err = command.getErr();
        if (e instanceof DefinitionsException wrong) {
            Repeats.fold(
                    wrong.problems(),
                    problem -> Repeats.kind(
                            problem.message().substring(problem.message().indexOf(": ") + 1)),
                    ERRORS_OF_A_KIND,
                    err::println,
                    (problem, more) -> err.println(
                            problem.file() + ": " + more + " more of this kind; mend these, and the rest shows"));
            int count = wrong.problems().size();
            err.println(count + (count == 1 ? " problem" : " problems") + "; nothing was changed");
            return ExitCode.USAGE;
        }
        if (e instanceof ScheduleSyntaxException wrong) {
            report(wrong, err);
            return ExitCode.USAGE;
        }
        if (e instanceof NotThereException) {
            err.println("brume: " + e.getMessage());
            return ExitCode.NOT_FOUND;
        }
        if (e instanceof UsageException) {
            err.println("brume: " + e.getMessage());
            return ExitCode.USAGE;
        }
        if (e instanceof StoreException) {
            err.println("brume: " + e.getMessage());
            return ExitCode.STORE;
        }
        if (e instanceof Garbled) {
            err.println("brume: the server says something else than expected: " + e.getMessage()
                    + " (is it a Brume of another version?)");
            return ExitCode.STORE;
        }
        if (e instanceof Refused refused) {
            err.println("brume: " + refused.getMessage() + hint(refused));
            return refused.status() == 404 ? ExitCode.NOT_FOUND : ExitCode.USAGE;
        }
        err.println("brume: an error of our own, please report it:");
        e.printStackTrace(err);
        return ExitCode.INTERNAL;
    }

    /** What lets in is not said by the server, which does not know how it is asked. */
    private static String hint(Refused refused) {
        return refused.status() == 401 ? " (the variable BRUME_TOKEN, or --token-file FILE, says which token)" : "";
    }

    /** Shows the text with a mark under each place that is wrong. */
    private static void report(ScheduleSyntaxException wrong, PrintWriter err) {
        String text = wrong.text().replaceAll("\\s", " ");
        for (ScheduleProblem problem : wrong.problems()) {
            if (!text.isBlank()) {
                err.println("  " + text);
                err.println("  " + " ".repeat(problem.index())
                        + "^".repeat(Math.max(1, problem.text().length())));
            }
            err.println(problem.within(wrong.text()));
        }
    }
}
