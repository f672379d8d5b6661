package dev.brume.cli;

import picocli.CommandLine.Option;

/** How many of a list are wanted. */
final class CountOption {
    private static final int MOST = 10_000;

    @Option(
            names = "--count",
            paramLabel = "N",
            defaultValue = "20",
            description = "How many at most, up to 10000; default: ${DEFAULT-VALUE}.")
    private int count;

    int count() {
        if (count < 1 || count > MOST) {
            throw new UsageException("--count " + count + " is outside 1 to " + MOST);
        }
        return count;
    }
}
