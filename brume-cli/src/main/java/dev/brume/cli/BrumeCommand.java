package dev.brume.cli;

import dev.brume.definitions.DefinitionsException;
import dev.brume.port.StoreException;
import dev.brume.schedule.ScheduleProblem;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.IVersionProvider;

/** The command and what all its subcommands share: streams, errors, exit codes. */
@Command(
        name = "brume",
        mixinStandardHelpOptions = true,
        versionProvider = BrumeCommand.Version.class,
        synopsisSubcommandLabel = "COMMAND",
        description = "Timed jobs that run once across many instances, and can prove it.",
        subcommands = {
            DemoCommand.class,
            ServeCommand.class,
            JobsCommand.class,
            RunsCommand.class,
            ShowCommand.class,
            WhyCommand.class,
            DoctorCommand.class,
            TallyCommand.class,
            StatsCommand.class,
            ChangesCommand.class,
            InstancesCommand.class,
            LeasesCommand.class,
            CalendarsCommand.class,
            PreviewCommand.class,
            ExplainCommand.class,
            CheckCommand.class,
            DiffCommand.class,
            SyncCommand.class,
            StartCommand.class,
            AgainCommand.class,
            BackfillCommand.class,
            SkipCommand.class,
            CancelCommand.class,
            PauseCommand.class,
            ResumeCommand.class,
            AnswerCommand.class,
            PlanCommand.class,
            UnplanCommand.class,
            PlannedCommand.class,
            DrainCommand.class,
            DropCommand.class,
            KeepCommand.class,
            RestoredCommand.class,
            SchemaCommand.class
        },
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0  done",
            "  1  what was asked about is not there, or a check found something",
            "  2  the command line, an expression or a definition file is wrong; nothing was changed",
            "  3  the database cannot be reached or written",
            "  4  what was waited for has not come about yet",
            "",
            "Start with:  brume demo"
        })
final class BrumeCommand implements Runnable {
    private final CommandLine.Model.CommandSpec[] spec = new CommandLine.Model.CommandSpec[1];

    @CommandLine.Spec
    void spec(CommandLine.Model.CommandSpec own) {
        spec[0] = own;
    }

    /** Runs the command; the process is left alone. */
    static int run(String[] args, PrintStream out, PrintStream err) {
        CommandLine line = new CommandLine(new BrumeCommand());
        line.setOut(new PrintWriter(out, true, StandardCharsets.UTF_8));
        line.setErr(new PrintWriter(err, true, StandardCharsets.UTF_8));
        line.setExecutionStrategy(new Watching());
        line.setExecutionExceptionHandler((e, command, result) -> report(e, command));
        line.setCaseInsensitiveEnumValuesAllowed(true);
        line.setUsageHelpAutoWidth(true);
        line.setColorScheme(CommandLine.Help.defaultColorScheme(CommandLine.Help.Ansi.OFF));
        return line.execute(args);
    }

    @Override
    public void run() {
        throw new CommandLine.ParameterException(spec[0].commandLine(), "Missing command; see brume --help");
    }

    static int report(Exception e, CommandLine command) {
        PrintWriter err = command.getErr();
        if (e instanceof DefinitionsException wrong) {
            wrong.problems().forEach(err::println);
            int count = wrong.problems().size();
            err.println(count + (count == 1 ? " problem" : " problems") + "; nothing was changed");
            return ExitCode.USAGE;
        }
        if (e instanceof ScheduleSyntaxException wrong) {
            report(wrong, err);
            return ExitCode.USAGE;
        }
        if (e instanceof UsageException) {
            err.println("brume: " + e.getMessage());
            return ExitCode.USAGE;
        }
        if (e instanceof StoreException) {
            err.println("brume: " + e.getMessage());
            return ExitCode.STORE;
        }
        err.println("brume: an error of our own, please report it:");
        e.printStackTrace(err);
        return ExitCode.INTERNAL;
    }

    /** Shows the text with a mark under each place that is wrong. */
    private static void report(ScheduleSyntaxException wrong, PrintWriter err) {
        String text = wrong.text().replaceAll("\\s", " ");
        for (ScheduleProblem problem : wrong.problems()) {
            err.println("  " + text);
            err.println("  " + " ".repeat(problem.index())
                    + "^".repeat(Math.max(1, problem.text().length())));
            err.println(problem);
        }
    }

    /** Says which version this is. */
    static final class Version implements IVersionProvider {
        @Override
        public String[] getVersion() {
            return new String[] {text()};
        }

        static String text() {
            String version = Optional.ofNullable(BrumeCommand.class.getPackage().getImplementationVersion())
                    .orElse("development");
            return "brume " + version + ", Java " + Runtime.version().feature();
        }
    }
}
