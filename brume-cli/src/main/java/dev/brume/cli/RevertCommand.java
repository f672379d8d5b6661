package dev.brume.cli;

import dev.brume.Defined;
import dev.brume.JobName;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Puts an earlier version of a job in force again. */
@Command(
        name = "revert",
        mixinStandardHelpOptions = true,
        description =
                "Puts an earlier version of a job in force again: a new version that equals it (brume changes JOB tells which there were). What defines"
                        + " the job, such as its file, goes on to do so: correct it as well, or it defines the job anew when it is applied.",
        footerHeading = "%nExample:%n",
        footer = "  brume revert tide-tables 3 --because 'the new times were wrong'")
final class RevertCommand implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "JOB", description = "The job: NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(index = "1", paramLabel = "VERSION", description = "The version that it is to equal.")
    private int version;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName name = OrderOptions.key(job);
        Defined defined = options.order(desk -> desk.revert(name, version));
        if (defined.kind() == Defined.Kind.OUTDATED) {
            throw new UsageException("a newer version of Brume has defined '" + name + "', which this one cannot read");
        }
        return report.done(
                defined.kind() == Defined.Kind.UNCHANGED
                        ? "job " + name + " is as it was in version " + version + "; nothing was changed"
                        : "version " + defined.version() + " of job " + name + " is in force, and equals version "
                                + version,
                "job",
                name,
                "kind",
                defined.kind(),
                "version",
                defined.version(),
                "equals",
                version);
    }
}
