package dev.brume.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Lets older definitions of a source be put in force again. */
@Command(
        name = "accept",
        mixinStandardHelpOptions = true,
        description =
                "Lets the next definitions of a source be put in force, whatever their revision, and those of its jobs whatever"
                        + " build of the application they are of. An older one is not applied otherwise. What is in force stays"
                        + " until then.",
        footerHeading = "%nExit codes:%n",
        footer = {
            "  0 accepted, 1 nothing in force comes from there.",
            "",
            "Examples:",
            "  brume definitions accept api --because 'back to build 41'",
            "  brume definitions accept harbour.yaml"
        })
final class DefinitionsAcceptCommand implements Callable<Integer> {
    @Parameters(
            paramLabel = "SOURCE",
            description =
                    "Where they come from: a file's name, or api for jobs defined in code; NAMESPACE:FILE for the file of a"
                            + " namespace.")
    private String source;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        int jobs = options.order(desk -> desk.accept(source));
        return report.done(
                "the next definitions of " + source + " are put in force, however old (" + jobs
                        + (jobs == 1 ? " job of it is" : " jobs of it are") + " in force now)",
                "source",
                source,
                "jobs",
                jobs);
    }
}
