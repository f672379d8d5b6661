package dev.brume.cli;

/** The exit codes of all commands. */
final class ExitCode {
    /** Done. */
    static final int OK = 0;

    /** What was asked about is not there, or a check found something. */
    static final int NOT_FOUND = 1;

    /** The command line, an expression or a definition file is wrong; nothing was changed. */
    static final int USAGE = 2;

    /** The database cannot be reached or written. */
    static final int STORE = 3;

    /** The command stopped waiting before it happened. */
    static final int NOT_YET = 4;

    /** Not all of what was printed could be written. */
    static final int OUTPUT = 5;

    /** A mistake of ours. */
    static final int INTERNAL = 70;

    private ExitCode() {}
}
