package dev.brume.cli;

import dev.brume.schedule.Zones;
import java.time.Instant;
import java.time.ZoneId;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** The zone in which times are given. */
final class ZoneOption {
    @Option(
            names = "--zone",
            paramLabel = "ZONE",
            description = "The zone of times that name none; this machine's unless given.")
    private @Nullable String zone;

    Instant parse(String option, String text, Instant now) {
        return Times.parse(option, text, zone(), now);
    }

    ZoneId zone() {
        return zone == null ? ZoneId.systemDefault() : Zones.parse(zone);
    }
}
