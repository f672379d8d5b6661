package dev.brume.cli;

import dev.brume.history.Pause;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Which jobs a pause is about. */
final class PauseScope {
    @ArgGroup(multiplicity = "1")
    private Choice choice;

    /** One of the three. */
    static final class Choice {
        @Parameters(paramLabel = "JOB", description = "One job: NAME or NAMESPACE/NAME.")
        private @Nullable String job;

        @Option(names = "--tag", paramLabel = "TAG", description = "All jobs that carry a tag, now or later.")
        private @Nullable String tag;

        @Option(names = "--everything", description = "All jobs, now or later.")
        private boolean everything;
    }

    Pause.Scope scope() {
        if (choice.job != null) {
            return Pause.Scope.of(OrderOptions.key(choice.job));
        }
        return choice.tag != null ? Pause.Scope.tag(choice.tag) : Pause.Scope.EVERYTHING;
    }

    static String jobs(int count) {
        return count + (count == 1 ? " job" : " jobs");
    }
}
