package dev.brume.cli;

import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/** The entry point of the process. */
public final class Main {
    private Main() {}

    /** Runs the command and exits with its code. Output is UTF-8, whatever the locale. */
    public static void main(String[] args) {
        RememberingStream written = new RememberingStream(new FileOutputStream(FileDescriptor.out));
        TerminalStream toOut = new TerminalStream(written);
        TerminalStream toErr = new TerminalStream(new FileOutputStream(FileDescriptor.err));
        PrintStream out = new PrintStream(toOut, true, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(toErr, true, StandardCharsets.UTF_8);
        System.setOut(out);
        System.setErr(err);
        int code = run(args, out, err);
        out.flush();
        finish(toOut);
        finish(toErr);
        System.exit(
                written.trouble().isEmpty() ? code : unread(written.trouble().get(), err));
    }

    private static void finish(TerminalStream stream) {
        try {
            stream.finish();
        } catch (IOException e) {
            // Standard output remembers it; there is nowhere else to say so.
            return;
        }
    }

    /** A reader that left, as head does, wants to hear no more; a full disk is another matter. */
    private static int unread(IOException why, PrintStream err) {
        String reason = String.valueOf(why.getMessage());
        if (!reason.contains("Broken pipe")) {
            err.println("brume: standard output could not be written: " + reason);
        }
        return ExitCode.OUTPUT;
    }

    /** What version this is takes no command line to be set up. */
    private static int run(String[] args, PrintStream out, PrintStream err) {
        if (args.length == 1 && (args[0].equals("--version") || args[0].equals("-V"))) {
            out.println(Version.text());
            return ExitCode.OK;
        }
        Ahead.load(args);
        return BrumeCommand.run(args, out, err);
    }
}
