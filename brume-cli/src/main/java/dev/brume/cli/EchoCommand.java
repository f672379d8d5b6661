package dev.brume.cli;

import dev.brume.notices.MailSink;
import jakarta.mail.internet.MimeUtility;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.io.UnsupportedEncodingException;
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

/** Answers requests on this machine and prints them, and takes mail: the other side of requests and notices, to try them out. */
@Command(
        name = "echo",
        mixinStandardHelpOptions = true,
        description = "Answers HTTP requests on this machine alone and prints what arrives, to try out jobs that make"
                + " requests, and webhooks of notices; with --mail it takes mail as well. Runs until it is ended.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume echo --port 8070 --status 503,503,200 --retry-after 2s",
            "  brume echo --port 8071 --secret \"$PAGER_SECRET\" --mail 2525"
        })
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

    @Option(
            names = "--secret",
            paramLabel = "SECRET",
            description = "What webhooks of notices are signed with: says of each whether its signature holds.")
    private @Nullable String secret;

    @Option(names = "--mail", paramLabel = "PORT", description = "Takes mail there, by SMTP; 0 for any free port.")
    private @Nullable Integer mail;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() throws InterruptedException {
        statuses.stream().filter(status -> status < 100 || status > 599).forEach(status -> {
            throw new UsageException("--status " + status + " is not a status (expected 100 to 599)");
        });
        PrintWriter out = spec.commandLine().getOut();
        Optional<Duration> wait = Optional.ofNullable(retryAfter);
        try (StandIn standIn =
                        StandIn.open(port, statuses, wait, Optional.ofNullable(secret), line -> print(out, line));
                MailSink sink = mail == null ? null : MailSink.open(mail, taken -> print(out, inALine(taken)))) {
            print(out, "answers at http://127.0.0.1:" + standIn.port() + "/");
            if (sink != null) {
                print(out, "takes mail at 127.0.0.1:" + sink.port());
            }
            new CountDownLatch(1).await();
        } catch (UncheckedIOException e) {
            throw new UsageException(e.getMessage() + " (give another --mail)");
        }
        return ExitCode.OK;
    }

    private static String inALine(MailSink.Mail taken) {
        return "mail  " + taken.from() + " to " + String.join(", ", taken.to()) + "  "
                + taken.header("Subject").map(EchoCommand::decoded).orElse("(no subject)");
    }

    private static String decoded(String header) {
        try {
            return MimeUtility.decodeText(header);
        } catch (UnsupportedEncodingException e) {
            return header;
        }
    }

    /** Requests and mail arrive on threads of their own. */
    private static synchronized void print(PrintWriter out, String line) {
        out.println(line);
        out.flush();
    }
}
