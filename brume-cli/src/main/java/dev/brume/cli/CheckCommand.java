package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.FileCheck;
import dev.brume.definitions.JsonText;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Checks a definition file without touching any database. */
@Command(
        name = "check",
        mixinStandardHelpOptions = true,
        description = "Checks a definition file: every error with its line and column, and what will surprise you.",
        footerHeading = "%nExit codes: 0 fine, 1 warnings under --strict, 2 errors.%n%nExample:%n",
        footer = "  brume check harbour.yaml --strict")
final class CheckCommand implements Callable<Integer> {
    private static final int EXAMPLES = 3;

    @Parameters(paramLabel = "FILE", description = "YAML or JSON.")
    private Path file;

    @Option(names = "--strict", description = "Exits with 1 if there are warnings.")
    private boolean strict;

    @Option(
            names = "--all",
            description = "Prints every warning; without it three of a kind and how many more, except for programs.")
    private boolean all;

    @Mixin
    private LookOptions look;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        DefinitionFile read = DefinitionFile.read(file);
        List<Finding> findings = FileCheck.of(read, Instant.now()).stream()
                .map(warning -> new Finding(
                        warning.line(),
                        warning.job().map(JobName::toString).orElse(""),
                        warning.text(),
                        Repeats.kind(warning.text())))
                .toList();
        print(read, look.json() ? findings : together(findings));
        return findings.isEmpty() || !strict ? ExitCode.OK : ExitCode.NOT_FOUND;
    }

    private record Finding(int line, String job, String text, String kind) {}

    /** What holds for several jobs is said once. */
    private static List<Finding> together(List<Finding> findings) {
        Map<String, List<Finding>> byText = findings.stream()
                .collect(Collectors.groupingBy(Finding::text, LinkedHashMap::new, Collectors.toList()));
        return byText.values().stream().map(CheckCommand::merged).toList();
    }

    private static Finding merged(List<Finding> same) {
        Finding first = same.get(0);
        return same.size() == 1
                ? first
                : new Finding(
                        first.line, first.job + " and " + count(same.size() - 1, "more job"), first.text, first.kind);
    }

    private void print(DefinitionFile read, List<Finding> findings) {
        PrintWriter out = spec.commandLine().getOut();
        if (look.json()) {
            out.println(JsonText.pretty(findings.stream()
                    .map(finding -> JsonOut.object(
                            "file",
                            file,
                            "line",
                            finding.line,
                            "job",
                            finding.job.isEmpty() ? null : finding.job,
                            "severity",
                            "warning",
                            "message",
                            finding.text))
                    .toList()));
            return;
        }
        if (all) {
            findings.forEach(finding -> print(finding, out));
        } else {
            Repeats.fold(
                    findings,
                    Finding::kind,
                    EXAMPLES,
                    finding -> print(finding, out),
                    (finding, more) -> out.println(file + ":" + finding.line + ": " + count(more, "more warning")
                            + " of this kind; --all prints them"));
        }
        out.println(file + ": " + count(read.jobs().size(), "job") + ", "
                + count(read.calendars().size(), "calendar") + ", " + count(findings.size(), "warning"));
    }

    private void print(Finding finding, PrintWriter out) {
        String job = finding.job.isEmpty() ? "" : finding.job + ": ";
        String line = file + ":" + finding.line + ": WARNING " + job + finding.text;
        // On a terminal long lines are broken between words; elsewhere a finding is a line.
        List<String> lines = System.console() == null ? List.of(line) : Wrap.lines(line, look.width(), 4);
        lines.forEach(part -> out.println(
                part.replaceFirst(": WARNING ", ": " + look.palette().word("WARNING") + " ")));
    }

    private static String count(int amount, String noun) {
        return amount + " " + noun + (amount == 1 ? "" : "s");
    }
}
