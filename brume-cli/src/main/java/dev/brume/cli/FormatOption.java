package dev.brume.cli;

import picocli.CommandLine.Option;

/** For whom output is. */
final class FormatOption {
    /** The forms of output. */
    enum Format {
        TEXT,
        JSON
    }

    @Option(
            names = "--format",
            paramLabel = "text|json",
            defaultValue = "text",
            description = "text for people, json for programs; default: ${DEFAULT-VALUE}.")
    private Format format;

    boolean json() {
        return format == Format.JSON;
    }
}
