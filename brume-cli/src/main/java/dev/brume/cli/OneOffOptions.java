package dev.brume.cli;

import dev.brume.JobName;
import picocli.CommandLine.Parameters;

/** Which one-off an order is about. */
final class OneOffOptions {
    @Parameters(index = "0", paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(
            index = "1",
            paramLabel = "KEY",
            description = "The key it is ordered under: unique within the job, at most 150 characters.")
    private String key;

    /** {@return the name of the job} */
    JobName job() {
        return OrderOptions.key(job);
    }

    /** {@return the key} */
    String key() {
        return key;
    }

    @Override
    public String toString() {
        return key + " of " + job();
    }
}
