package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.JobKey;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Drops a job. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description = "Drops a job: it owes nothing from now on. Its history stays; runs that are live end as usual.",
        footerHeading = "%nExample:%n",
        footer = "  brume drop harbour/reef-survey")
final class DropCommand implements Callable<Integer> {
    @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Mixin
    private StoreOptions options;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        JobKey key = RunsCommand.key(job);
        try (StoreOptions.OpenStore open = options.visit()) {
            Brume brume = Brume.on(open.store()).instance("brume-drop").build();
            if (!brume.drop(key)) {
                spec.commandLine().getErr().println("brume: there is no job '" + job + "'; see brume jobs");
                return ExitCode.NOT_FOUND;
            }
        }
        spec.commandLine().getOut().println("dropped " + key);
        return ExitCode.OK;
    }
}
