package dev.brume.cli;

import dev.brume.schedule.Durations;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.time.Instant;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.Optional;
import java.util.concurrent.locks.LockSupport;
import picocli.CommandLine;
import picocli.CommandLine.IExecutionStrategy;
import picocli.CommandLine.ParseResult;
import picocli.CommandLine.RunLast;

/**
 * Carries out a command once, or again and again if it is to be watched.
 *
 * <p>On a terminal each look takes the place of the one before, without a blank screen in between; elsewhere they follow each
 * other. One that fails, because the database is away for a moment, is shown and the next one tried. For programs each look is a
 * line of JSON, and what fails is said beside it.
 */
final class Watching implements IExecutionStrategy {
    @Override
    public int execute(ParseResult result) {
        Optional<WatchOptions> watch = mixin(result, WatchOptions.class);
        try {
            if (watch.isPresent() && watch.get().wanted()) {
                return again(result, watch.get());
            }
        } catch (UsageException | ScheduleSyntaxException e) {
            return BrumeCommand.report(e, last(result).commandSpec().commandLine());
        }
        return new RunLast().execute(result);
    }

    private static ParseResult last(ParseResult result) {
        return result.hasSubcommand() ? last(result.subcommand()) : result;
    }

    private static <T> Optional<T> mixin(ParseResult result, Class<T> type) {
        return last(result).commandSpec().mixins().values().stream()
                .map(mixin -> mixin.userObject())
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst();
    }

    private static int again(ParseResult result, WatchOptions watch) {
        CommandLine command = last(result).commandSpec().commandLine();
        PrintWriter out = command.getOut();
        boolean json =
                mixin(result, LookOptions.class).filter(LookOptions::json).isPresent();
        boolean screen = !json && System.console() != null && !"dumb".equals(System.getenv("TERM"));
        String name = command.getCommandSpec().qualifiedName(" ");
        long every = watch.every().toNanos();
        int code = ExitCode.OK;
        if (screen) {
            out.print(Sign.EMPTY_SCREEN.text());
        }
        for (int look = 1; look <= watch.times(); look++) {
            long next = System.nanoTime() + every;
            StringWriter text = new StringWriter();
            command.setOut(new PrintWriter(text, true));
            if (!json) {
                command.setErr(new PrintWriter(text, true));
            }
            code = once(result, command);
            Instant now = Instant.now().truncatedTo(ChronoUnit.SECONDS);
            String head = name + ", every " + Durations.format(watch.every()) + ", at "
                    + Times.withOffset(now, ZoneId.systemDefault()) + "; Ctrl-C ends";
            if (json) {
                JsonOut.compact(text.toString()).ifPresent(out::println);
                out.flush();
            } else {
                show(out, screen, head, text.toString());
            }
            while (look < watch.times() && System.nanoTime() - next < 0) {
                LockSupport.parkNanos(next - System.nanoTime());
            }
        }
        return code;
    }

    private static int once(ParseResult result, CommandLine command) {
        try {
            return new RunLast().execute(result);
        } catch (CommandLine.ExecutionException e) {
            return BrumeCommand.report(e.getCause() instanceof Exception cause ? cause : e, command);
        }
    }

    private static void show(PrintWriter out, boolean screen, String head, String text) {
        if (screen) {
            out.print(Sign.TOP.text() + head + Sign.REST_OF_LINE.text() + "\n" + Sign.REST_OF_LINE.text() + "\n"
                    + text.replace("\n", Sign.REST_OF_LINE.text() + "\n") + Sign.REST_OF_SCREEN.text());
        } else {
            out.print(head + "\n\n" + text + "\n");
        }
        out.flush();
    }
}
