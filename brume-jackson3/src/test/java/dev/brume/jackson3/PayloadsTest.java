package dev.brume.jackson3;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.PropertyNamingStrategies;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dev.brume.Job;
import dev.brume.JsonPayloads;
import dev.brume.Outcome;
import dev.brume.PayloadType;
import dev.brume.history.RunView;
import dev.brume.jackson2.Jackson2Payloads;
import dev.brume.testkit.VirtualBrume;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

class PayloadsTest {
    enum Tide {
        HIGH,
        LOW;

        @Override
        public String toString() {
            return "the tide is " + name();
        }
    }

    record Berth(int number, Optional<String> ship) {}

    record Manifest(
            String ferry,
            Instant sails,
            LocalDate day,
            LocalTime boards,
            OffsetDateTime booked,
            ZonedDateTime arrives,
            Duration crossing,
            BigDecimal fare,
            UUID number,
            Tide tide,
            List<Berth> berths,
            Map<String, Object> notes,
            long passengers) {}

    private static final Manifest MANIFEST = new Manifest(
            "Petrel",
            Instant.parse("2026-10-25T00:30:00.123456Z"),
            LocalDate.of(2026, 10, 25),
            LocalTime.of(23, 5),
            OffsetDateTime.parse("2026-10-24T12:00:00+10:30"),
            ZonedDateTime.parse("2026-10-25T01:30:00-01:00[Atlantic/Azores]"),
            Duration.ofMinutes(95),
            new BigDecimal("12.50"),
            UUID.fromString("0b8f3bfe-7a04-4e55-9d0a-6f2c3a0d9a11"),
            Tide.LOW,
            List.of(new Berth(3, Optional.of("Skua")), new Berth(4, Optional.empty())),
            Map.of("draught", new BigDecimal("3.10")),
            Long.MAX_VALUE);

    static List<JsonPayloads> all() {
        return List.of(new Jackson2Payloads(), new Jackson3Payloads());
    }

    @ParameterizedTest
    @MethodSource("all")
    void whatOneHasStoredTheOtherReads(JsonPayloads writer) {
        String stored = writer.<Manifest>type(Manifest.class).text(MANIFEST);

        assertThat(stored)
                .contains("\"2026-10-25T00:30:00.123456Z\"", "\"2026-10-25\"", "\"23:05:00\"", "\"PT1H35M\"", "\"LOW\"")
                .contains("12.50", "+10:30", "3.10");
        for (JsonPayloads reader : all()) {
            Manifest read = reader.<Manifest>type(Manifest.class).read().apply(stored);
            assertThat(read.arrives().toOffsetDateTime())
                    .isEqualTo(MANIFEST.arrives().toOffsetDateTime());
            assertThat(read)
                    .usingRecursiveComparison()
                    .ignoringFields("arrives")
                    .isEqualTo(MANIFEST);
        }
    }

    @ParameterizedTest
    @MethodSource("all")
    void fieldsThatItDoesNotKnowAreBearableAndThoseThatAreMissingAreEmpty(JsonPayloads payloads) {
        PayloadType<Berth> berth = payloads.type(Berth.class);

        assertThat(berth.name()).isEqualTo("Berth");
        assertThat(berth.read().apply("{\"depth\": {\"metres\": 4}}").number()).isZero();
    }

    @ParameterizedTest
    @MethodSource("all")
    void whatCannotBeReadIsToldWithItsPlaceAndWithoutItsContent(JsonPayloads payloads) {
        PayloadType<Berth> berth = payloads.type(Berth.class);

        assertThatThrownBy(() -> berth.read().apply("{\"ship\": \"s3cret\",\n \"number\": \"many\"}"))
                .hasMessageContaining("line 2, column")
                .hasMessageContaining("many")
                .hasMessageNotContaining("s3cret");
        assertThatThrownBy(() -> berth.read().apply("")).hasMessage("there is none");
        assertThatThrownBy(() -> berth.read().apply("null")).hasMessage("it is null");
        assertThatThrownBy(() -> berth.read().apply("{} {}")).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void theApplicationsMapperDecidesHowMembersAreNamed() {
        ObjectMapper own = new ObjectMapper()
                .registerModule(new JavaTimeModule())
                .setPropertyNamingStrategy(PropertyNamingStrategies.SNAKE_CASE);
        record Crossing(Instant sailsAt) {}

        String text = new Jackson2Payloads(own).type(Crossing.class).text(new Crossing(Instant.EPOCH));

        assertThat(text).isEqualTo("{\"sails_at\":\"1970-01-01T00:00:00Z\"}");
    }

    @Test
    void ofTwoOneMustBeChosenAndTheChoiceHoldsForTypesMadeBefore() {
        assertThatThrownBy(() -> PayloadType.json(Berth.class))
                .isInstanceOf(IllegalStateException.class)
                .hasMessageContaining("jackson2")
                .hasMessageContaining("jackson3")
                .hasMessageContaining("leave one of the modules out, or choose");
        JsonPayloads.choose(new Jackson3Payloads());
        PayloadType<Berth> berth = PayloadType.json("berth-2", Berth.class);

        assertThat(JsonPayloads.chosen().name()).isEqualTo("jackson3");
        assertThat(berth.text(new Berth(3, Optional.of("Skua")))).isEqualTo("{\"number\":3,\"ship\":\"Skua\"}");

        JsonPayloads.choose(new Jackson2Payloads(
                new ObjectMapper().setPropertyNamingStrategy(PropertyNamingStrategies.UPPER_CAMEL_CASE)));

        assertThat(berth.text(new Berth(3, null))).startsWith("{\"Number\":3");
    }

    @Test
    void aRunIsGivenItsPayloadAndOneThatCannotBeReadFailsForGood() {
        try (VirtualBrume office =
                VirtualBrume.beginning(Instant.parse("2026-10-24T12:00:00Z")).build()) {
            PayloadType<Berth> type = new Jackson3Payloads().type(Berth.class);
            office.brume()
                    .define(
                            Job.named("moor"),
                            type,
                            (run, berth) -> run.result(
                                    berth.number() + " for " + berth.ship().orElse("nobody")));

            RunView well = office.run("moor", type.text(new Berth(3, Optional.of("Skua"))));
            RunView badly = office.run("moor", "{");

            assertThat(well.result()).contains("3 for Skua");
            assertThat(badly.outcome()).contains(Outcome.FAILED);
            assertThat(badly.attempts()).hasSize(1);
        }
    }
}
