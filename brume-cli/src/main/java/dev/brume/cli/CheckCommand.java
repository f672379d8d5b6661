package dev.brume.cli;

import dev.brume.Job;
import dev.brume.decide.Warnings;
import dev.brume.definitions.DefinitionFile;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Instant;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Checks a definition file without touching any database. */
@Command(
        name = "check",
        mixinStandardHelpOptions = true,
        description = "Checks a definition file: every error with its line and column, and what will surprise you.",
        footerHeading = "%nExample:%n",
        footer = "  brume check harbour.yaml --strict")
final class CheckCommand implements Callable<Integer> {
    @Parameters(paramLabel = "FILE", description = "YAML or JSON.")
    private Path file;

    @Option(names = "--strict", description = "Exits with 1 if there are warnings.")
    private boolean strict;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        DefinitionFile read = DefinitionFile.read(file);
        PrintWriter out = spec.commandLine().getOut();
        int warnings = 0;
        for (Job job : read.jobs()) {
            for (String warning : Warnings.of(job, Instant.now())) {
                out.println(file + ": " + job.key() + ": warning: " + warning);
                warnings++;
            }
        }
        out.println(file + ": " + count(read.jobs().size(), "job") + ", " + count(warnings, "warning"));
        return warnings > 0 && strict ? ExitCode.NOT_FOUND : ExitCode.OK;
    }

    private static String count(int amount, String noun) {
        return amount + " " + noun + (amount == 1 ? "" : "s");
    }
}
