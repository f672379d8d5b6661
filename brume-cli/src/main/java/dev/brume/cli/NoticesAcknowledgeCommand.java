package dev.brume.cli;

import dev.brume.history.CauseRow;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Acknowledges a cause. */
@Command(
        name = "acknowledge",
        mixinStandardHelpOptions = true,
        description =
                "Says that somebody knows: nothing more is told of a cause until it is over, or looks different. The change log"
                        + " has who, why and until when.")
final class NoticesAcknowledgeCommand implements Callable<Integer> {
    @Parameters(paramLabel = "CAUSE", description = "As 'brume notices causes' lists it, in quotes.")
    private String cause;

    @Option(names = "--for", paramLabel = "DURATION", description = "For so long at most, such as 4h.")
    private @Nullable Duration length;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        CauseRow silenced = options.order(desk -> desk.acknowledge(cause, Optional.ofNullable(length)));
        Optional<String> until =
                silenced.silence().flatMap(CauseRow.Silence::until).map(Object::toString);
        return report.done(
                "nothing more is told of '" + cause + "' "
                        + until.map(at -> "until " + at + ", or until it is over or looks different before")
                                .orElse("until it is over or looks different"),
                "cause",
                cause,
                "until",
                until);
    }
}
