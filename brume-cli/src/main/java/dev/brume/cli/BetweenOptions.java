package dev.brume.cli;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** From when, and until when, what is listed lies. */
final class BetweenOptions {
    @Option(
            names = "--from",
            paramLabel = "TIME",
            description = "Only from this time on: an instant, a local time of yours, or 2h for two hours ago.")
    private @Nullable String from;

    @Option(names = "--until", paramLabel = "TIME", description = "Only before this time.")
    private @Nullable String until;

    /**
     * A period that may be open.
     *
     * @param from inclusive
     * @param until exclusive
     */
    record Between(Optional<Instant> from, Optional<Instant> until) {}

    Between read(ZoneId zone, Instant now) {
        Optional<Instant> begin = Optional.ofNullable(from).map(text -> Times.parse("--from", text, zone, now));
        Optional<Instant> end = Optional.ofNullable(until).map(text -> Times.parse("--until", text, zone, now));
        if (begin.isPresent() && end.isPresent() && !begin.get().isBefore(end.get())) {
            throw new UsageException("--until " + until + " is not after --from " + from);
        }
        return new Between(begin, end);
    }
}
