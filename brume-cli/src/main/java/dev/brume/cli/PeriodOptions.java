package dev.brume.cli;

import java.time.Instant;
import java.time.ZoneId;
import picocli.CommandLine.Option;

/** Over which time a command counts. */
final class PeriodOptions {
    @Option(
            names = "--from",
            paramLabel = "TIME",
            defaultValue = "24h",
            description = "From when, inclusive: a time, or how long ago; default: ${DEFAULT-VALUE}.")
    private String from;

    @Option(
            names = "--until",
            paramLabel = "TIME",
            defaultValue = "now",
            description =
                    "Until when, exclusive; default: ${DEFAULT-VALUE}. Occurrences still to come are not counted.")
    private String until;

    /**
     * A stretch of time.
     *
     * @param from inclusive
     * @param until exclusive
     */
    record Period(Instant from, Instant until) {}

    /** Reads the period, up to now at most. */
    Period upTo(Instant now, ZoneId zone) {
        Instant begin = Times.parse("--from", from, zone, now);
        Instant asked = Times.parse("--until", until, zone, now);
        Instant end = asked.isAfter(now) ? now : asked;
        if (!begin.isBefore(end)) {
            throw new UsageException("the period from " + begin + " until " + end + " is empty");
        }
        return new Period(begin, end);
    }
}
