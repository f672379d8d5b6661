package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.History;
import dev.brume.insight.diff.DefinitionDiff;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** A definition file that is compared with what is in force. */
final class ChangingFile {
    @Parameters(paramLabel = "FILE", description = "YAML or JSON.")
    private Path file;

    @Option(
            names = "--ahead",
            paramLabel = "DURATION",
            defaultValue = "7d",
            description = "How far to compare coming occurrences; default: ${DEFAULT-VALUE}.")
    private Duration ahead;

    @Option(
            names = "--all",
            description = "Prints every job that changes; without it 100 of a kind, and how many more.")
    private boolean all;

    @Spec(Spec.Target.MIXEE)
    private CommandSpec spec;

    /** What the file defines, and how far ahead to look. */
    record Wanted(DefinitionFile file, DefinitionSet set, Duration ahead) {
        DefinitionDiff diff(History history) {
            refuseFormerNames(history);
            return DefinitionDiff.of(set, history, history.now(), ahead);
        }

        /** A job that was renamed would look like one that is gone, and a new one. */
        private void refuseFormerNames(History history) {
            Map<JobName, JobName> renamed = new TreeMap<>(
                    history.renamed(set.jobs().stream().map(Job::name).toList()));
            renamed.values()
                    .removeIf(now -> history.job(now)
                                    .filter(view -> view.row().source().equals(set.source()))
                                    .isEmpty()
                            || set.jobs().stream().anyMatch(job -> job.name().equals(now)));
            if (!renamed.isEmpty()) {
                throw new UsageException(renamed.entrySet().stream()
                        .map(each -> "job " + each.getKey() + " of " + set.source() + " has been renamed to "
                                + each.getValue() + "; write that into the file, or 'brume rename " + each.getValue()
                                + " " + each.getKey().name() + "' takes it back")
                        .collect(Collectors.joining("\nbrume: ")));
            }
        }
    }

    boolean all() {
        return all;
    }

    Wanted read() {
        DefinitionFile read = read(file, spec.commandLine().getErr());
        return new Wanted(read, read.definitions(), ahead);
    }

    /** Reads a file, and says what in the files that it names was not understood. */
    static DefinitionFile read(Path file, PrintWriter err) {
        DefinitionFile read = DefinitionFile.read(file);
        read.warnings().forEach(warning -> err.println(file + ":" + warning.line() + ": WARNING " + warning.text()));
        return read;
    }
}
