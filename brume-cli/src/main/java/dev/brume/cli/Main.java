package dev.brume.cli;

import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/** The entry point of the process. */
public final class Main {
    private Main() {}

    /** Runs the command and exits with its code. Output is UTF-8, whatever the locale. */
    public static void main(String[] args) {
        PrintStream out = new PrintStream(new FileOutputStream(FileDescriptor.out), true, StandardCharsets.UTF_8);
        PrintStream err = new PrintStream(new FileOutputStream(FileDescriptor.err), true, StandardCharsets.UTF_8);
        System.setOut(out);
        System.setErr(err);
        System.exit(run(args, out, err));
    }

    /** What version this is takes no command line to be set up. */
    private static int run(String[] args, PrintStream out, PrintStream err) {
        if (args.length == 1 && (args[0].equals("--version") || args[0].equals("-V"))) {
            out.println(Version.text());
            return ExitCode.OK;
        }
        return BrumeCommand.run(args, out, err);
    }
}
