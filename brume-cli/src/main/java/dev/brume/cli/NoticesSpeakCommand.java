package dev.brume.cli;

import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Takes an acknowledgement back. */
@Command(
        name = "speak",
        mixinStandardHelpOptions = true,
        description = "Takes back that a cause was acknowledged: what comes of it is told again.")
final class NoticesSpeakCommand implements Callable<Integer> {
    @Parameters(paramLabel = "CAUSE", description = "As 'brume notices causes' lists it, in quotes.")
    private String cause;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        boolean silent = options.order(desk -> desk.speak(cause));
        return report.done(
                silent ? "'" + cause + "' is told of again" : "'" + cause + "' had not been acknowledged",
                "cause",
                cause,
                "acknowledged",
                silent);
    }
}
