package dev.brume.cli;

import dev.brume.cli.desk.Lookout;
import java.io.PrintWriter;
import java.time.Instant;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** As of when a command tells what is on record. */
final class AsOfOption {
    @Option(
            names = "--as-of",
            paramLabel = "TIME",
            description =
                    "Tells it as it was then: definitions by version, runs, instances and pauses. An instant, a local time"
                            + " of yours, or 2h for two hours ago.")
    private @Nullable String time;

    private @Nullable Instant then;

    /** {@return where to look: there, or at what it was} */
    Lookout of(Lookout now, LookOptions look) {
        if (time == null) {
            return now;
        }
        Instant present = now.history().now();
        Instant wanted = Times.parse("--as-of", time, look.viewerZone(), present);
        if (wanted.isAfter(present)) {
            throw new UsageException("--as-of " + wanted + " is still to come");
        }
        then = wanted;
        return now.asOf(wanted);
    }

    /** {@return whether it tells what was} */
    boolean isGiven() {
        return time != null;
    }

    /** Says to people that it is not how things stand now; to programs, nothing. */
    void tell(PrintWriter out, LookOptions look) {
        if (then != null && !look.json()) {
            out.println(look.palette().bold("As it was at " + Times.withOffset(then, look.viewerZone())));
            out.println();
        }
    }
}
