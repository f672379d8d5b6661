package dev.brume.cli;

import dev.brume.JobName;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Gives a job another name. */
@Command(
        name = "rename",
        mixinStandardHelpOptions = true,
        description =
                "Gives a job another name within its namespace. Its history, versions, waiting runs, one-offs and pauses stay with it, and jobs"
                        + " that it follows name it anew. Write the new name into its file as well: until then, the file's definition"
                        + " under the former name is left alone.",
        footerHeading = "%nExample:%n",
        footer = "  brume rename tide-print tide-tables-print --because 'as the printers call it'")
final class RenameCommand implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "JOB", description = "The job: NAME or NAMESPACE/NAME.")
    private String from;

    @Parameters(index = "1", paramLabel = "NAME", description = "Its new name, without the namespace or with the same.")
    private String to;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        JobName before = OrderOptions.key(from);
        JobName after = OrderOptions.key(to.contains("/") ? to : before.namespace() + "/" + to);
        List<String> followed = options.order(desk ->
                desk.rename(before, after).stream().map(JobName::toString).toList());
        String names = String.join(", ", followed);
        return report.done(
                "job " + before + " is called " + after + " now"
                        + (followed.isEmpty() ? "" : "; it follows " + names + " under that name"),
                "job",
                after,
                "formerly",
                before,
                "follows",
                followed);
    }
}
