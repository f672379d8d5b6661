package dev.brume.definitions;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.jr.ob.JSON;
import com.networknt.schema.InputFormat;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class ViewsTest {
    private static final Instant NOON = Instant.parse("2026-11-29T12:00:00Z");

    private static Schema schema(String output) throws IOException {
        return SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(JSON.std.asString(Views.schema(output)), InputFormat.JSON);
    }

    private static String json(Object value) throws IOException {
        return JSON.std.with(JSON.Feature.WRITE_NULL_PROPERTIES).asString(value);
    }

    private static RunView run(Map<Integer, Output> outputs) {
        Attempt first = Attempt.begun(1, "quay-1", new UUID(1, 2), (1L << 53) + 1, NOON.plusMillis(40))
                .ended(NOON.plusSeconds(3), AttemptEnd.FAILED, Optional.of("low water"));
        return new RunView(
                7,
                JobName.parse("harbour/dues"),
                RunRow.Owed.scheduled(1, NOON, ZoneOffset.UTC),
                2,
                "main",
                NOON,
                Optional.empty(),
                Optional.empty(),
                Optional.of(Outcome.FAILED),
                Optional.of("NO_ATTEMPT_LEFT"),
                List.of(first),
                Optional.of("{}"),
                Optional.empty(),
                Optional.of(NOON.plusSeconds(3)),
                outputs);
    }

    @Test
    void everyOutputHasASchemaThatStandsAlone() throws IOException {
        assertThat(Views.outputs()).contains("runs", "show", "serve", "export ledger", "seal verify");
        for (String output : Views.outputs()) {
            Map<String, Object> schema = Views.schema(output);
            assertThat(schema).as(output).containsKeys("$schema", "title");
            String text = JSON.std.asString(schema);
            assertThat(schema(output).validate("\"a text\"", InputFormat.JSON))
                    .as("%s takes no text; all that %s refers to is there", output, text.length())
                    .isNotEmpty();
        }
    }

    @Test
    void anUnknownOutputIsRefused() {
        assertThatThrownBy(() -> Views.schema("runz"))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessage("no output is called 'runz'");
    }

    @Test
    void fencesAndNumbersOfRunsAreTextsAndNothingIsLeftOut() throws IOException {
        Map<String, Object> view = Views.run(run(Map.of(1, new Output("no water", 8, 0))));

        assertThat(view)
                .containsEntry("run", "7")
                .containsEntry("fence", "9007199254740993")
                .containsEntry("lateMillis", 40L)
                .containsEntry("durationMillis", 2960L)
                .containsEntry("follows", null);
        assertThat(view.get("attempts").toString()).contains("output=no water").contains("end=FAILED");
        assertThat(schema("runs").validate(json(List.of(view)), InputFormat.JSON))
                .isEmpty();
    }

    @Test
    void whatWasNotReadIsNotToldAsIfItWereEmpty() {
        assertThat(Views.run(run(Map.of())).get("attempts").toString()).doesNotContain("output");
    }

    @Test
    void anEventIsToldInTheSameWords() throws IOException {
        Event event = Event.of(Event.Kind.FAILED, NOON, "quay-1", "after 3s")
                .withJob(JobName.parse("harbour/dues"))
                .withRun(7)
                .withAttempt(1)
                .withOutcome(Outcome.FAILED)
                .withTook(Duration.ofSeconds(3));

        Map<String, Object> view = Views.event(event);

        assertThat(view).containsEntry("run", "7").containsEntry("durationMillis", 3000L);
        assertThat(schema("serve").validate(json(view), InputFormat.JSON)).isEmpty();
    }
}
