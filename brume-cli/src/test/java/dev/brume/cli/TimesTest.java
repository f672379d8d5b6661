package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class TimesTest {
    private static final Instant NOW = Instant.parse("2026-11-23T10:00:00Z");
    private static final ZoneId AZORES = ZoneId.of("Atlantic/Azores");

    @ParameterizedTest
    @CsvSource({
        "0s, now",
        "400ms, now",
        "3s, in 3s",
        "-59s, 59s ago",
        "-59.9s, 1m ago",
        "5h12m, in 5h12m",
        "50h, in 2d2h"
    })
    void distancesAreSaidInTheTwoLargestUnits(String distance, String expected) {
        boolean past = distance.startsWith("-");
        Duration length = Durations.parse(past ? distance.substring(1) : distance);

        assertThat(Times.relative(past ? NOW.minus(length) : NOW.plus(length), NOW))
                .isEqualTo(expected);
    }

    @ParameterizedTest
    @CsvSource({
        "now, 2026-11-23T10:00:00Z",
        "2h, 2026-11-23T08:00:00Z",
        "90m, 2026-11-23T08:30:00Z",
        "2026-11-01, 2026-11-01T01:00:00Z",
        "2026-11-01T06:00, 2026-11-01T07:00:00Z",
        "2026-11-01 06:00, 2026-11-01T07:00:00Z",
        "2026-11-01T06:00:00Z, 2026-11-01T06:00:00Z",
        "2026-11-01 06:00:00-01:00, 2026-11-01T07:00:00Z",
        "06:00, 2026-11-23T07:00:00Z",
        "06:00:30+02:00, 2026-11-23T04:00:30Z"
    })
    void timesAreReadAsPeopleWriteThem(String text, Instant expected) {
        assertThat(Times.parse("--from", text, AZORES, NOW)).isEqualTo(expected);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "soon", "2026-13-01", "2x", "25:00", "12:00 o'clock"})
    void whatIsNoTimeIsRefusedWithTheOptionsName(String text) {
        assertThatThrownBy(() -> Times.parse("--from", text, AZORES, NOW))
                .isInstanceOf(UsageException.class)
                .hasMessageContaining("--from '" + text + "' is not a time");
    }

    @Test
    void zonesAreShownWhereTheyMatter() {
        assertThat(Times.near(NOW.plusSeconds(60), NOW, AZORES)).isEqualTo("09:01:00-01:00");
        assertThat(Times.near(NOW.plusSeconds(86_400 * 30), NOW, AZORES)).isEqualTo("2026-12-23 09:00:00-01:00");
        assertThat(Times.name(ZoneId.of("Etc/UTC"))).isEqualTo("UTC");
        assertThat(Times.name(AZORES)).isEqualTo("Atlantic/Azores");
        assertThat(Times.withOffset(NOW, AZORES)).isEqualTo("2026-11-23 09:00:00-01:00");
    }
}
