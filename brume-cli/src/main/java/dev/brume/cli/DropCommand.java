package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.history.NamespaceView;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Drops a job, or all of a namespace. */
@Command(
        name = "drop",
        mixinStandardHelpOptions = true,
        description =
                "Drops a job, or all jobs of a namespace: they owe nothing from now on. Their history stays; runs that are live end"
                        + " as usual.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume drop harbour/reef-survey --because \"the reef is mapped\"",
            "  brume drop --namespace ferry",
            "  brume drop --namespace ferry --yes --because \"the ferry is sold\""
        })
final class DropCommand implements Callable<Integer> {
    @ArgGroup(multiplicity = "1")
    private Choice choice;

    /** One of the two. */
    static final class Choice {
        @Parameters(paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
        private @Nullable String job;

        @Option(names = "--namespace", paramLabel = "NAMESPACE", description = "All jobs of a namespace, with --yes.")
        private @Nullable String namespace;
    }

    @Option(names = "--yes", description = "Drop all jobs of the namespace, rather than say how many there are.")
    private boolean yes;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        return choice.job != null ? drop(OrderOptions.key(choice.job)) : dropAll(String.valueOf(choice.namespace));
    }

    private int drop(JobName key) {
        options.order(desk -> {
            desk.drop(key);
            return key;
        });
        return report.done("dropped " + key, "job", key);
    }

    private int dropAll(String namespace) {
        if (!yes) {
            int jobs = options.look(history -> history.namespaces()).stream()
                    .filter(view -> view.name().equals(namespace))
                    .mapToInt(NamespaceView::jobs)
                    .sum();
            return report.notDone(
                    "the namespace " + namespace + " has " + PauseScope.jobs(jobs)
                            + (jobs == 0 ? "" : "; --yes drops " + (jobs == 1 ? "it" : "them")),
                    "namespace",
                    namespace,
                    "jobs",
                    jobs);
        }
        int dropped = options.order(desk -> desk.dropAll(namespace));
        return report.done(
                "dropped " + PauseScope.jobs(dropped) + " of the namespace " + namespace,
                "namespace",
                namespace,
                "jobs",
                dropped);
    }
}
