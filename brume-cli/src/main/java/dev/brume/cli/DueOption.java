package dev.brume.cli;

import java.time.Instant;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** The time at which a one-off is due. */
final class DueOption {
    @Option(
            names = "--at",
            paramLabel = "TIME",
            required = true,
            description = "When: 2027-06-12T09:00 in --zone, with Z, or now.")
    private String at;

    @Mixin
    private ZoneOption zone;

    /** {@return the instant, if {@code now} is that of the database} */
    Instant parse(Instant now) {
        return zone.parse("--at", at, now);
    }
}
