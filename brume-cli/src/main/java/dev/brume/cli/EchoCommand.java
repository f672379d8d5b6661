package dev.brume.cli;

import java.io.PrintWriter;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Answers requests on this machine and prints them: the other side of a job whose work is a request, to try it out. */
@Command(
        name = "echo",
        mixinStandardHelpOptions = true,
        description = "Answers HTTP requests on this machine alone and prints what arrives, to try out jobs that make"
                + " requests. Runs until it is ended.",
        footerHeading = "%nExample:%n",
        footer = "  brume echo --port 8070 --status 503,503,200 --retry-after 2s")
final class EchoCommand implements Callable<Integer> {
    @Option(
            names = "--port",
            paramLabel = "PORT",
            defaultValue = "8070",
            description = "Where to listen; 0 for any free one. Default: ${DEFAULT-VALUE}.")
    private int port;

    @Option(
            names = "--status",
            paramLabel = "STATUS",
            split = ",",
            defaultValue = "200",
            description = "What to answer, in turn; the last one goes on. Default: ${DEFAULT-VALUE}.")
    private List<Integer> statuses;

    @Option(
            names = "--retry-after",
            paramLabel = "DURATION",
            description = "What to send as Retry-After with answers from 300 on, in whole seconds.")
    private @Nullable Duration retryAfter;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws InterruptedException {
        statuses.stream().filter(status -> status < 100 || status > 599).forEach(status -> {
            throw new UsageException("--status " + status + " is not a status (expected 100 to 599)");
        });
        PrintWriter out = spec.commandLine().getOut();
        Optional<Duration> wait = Optional.ofNullable(retryAfter);
        try (StandIn standIn = StandIn.open(port, statuses, wait, line -> print(out, line))) {
            print(out, "answers at http://127.0.0.1:" + standIn.port() + "/");
            new CountDownLatch(1).await();
        }
        return ExitCode.OK;
    }

    private static void print(PrintWriter out, String line) {
        out.println(line);
        out.flush();
    }
}
