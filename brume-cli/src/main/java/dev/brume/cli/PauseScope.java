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

    /** One of the four. */
    static final class Choice {
        @Parameters(paramLabel = "JOB", description = "One job: NAME or NAMESPACE/NAME.")
        private @Nullable String job;

        @Option(names = "--tag", paramLabel = "TAG", description = "All jobs that carry a tag, now or later.")
        private @Nullable String tag;

        @Option(names = "--namespace", paramLabel = "NAMESPACE", description = "All jobs of a namespace, now or later.")
        private @Nullable String namespace;

        @Option(names = "--everything", description = "All jobs, now or later.")
        private boolean everything;
    }

    Pause.Scope scope() {
        if (choice.job != null) {
            return Pause.Scope.of(OrderOptions.key(choice.job));
        }
        if (choice.namespace != null) {
            try {
                return Pause.Scope.namespace(choice.namespace);
            } catch (IllegalArgumentException e) {
                throw new UsageException(e);
            }
        }
        return choice.tag != null ? Pause.Scope.tag(choice.tag) : Pause.Scope.EVERYTHING;
    }

    /** {@return how the command line says a scope that is not one job} */
    static String words(Pause.Scope scope) {
        return switch (scope.kind()) {
            case JOB -> scope.name();
            case TAG -> "--tag " + scope.name();
            case NAMESPACE -> "--namespace " + scope.name();
            case EVERYTHING -> "--everything";
        };
    }

    static String jobs(int count) {
        return count + (count == 1 ? " job" : " jobs");
    }
}
