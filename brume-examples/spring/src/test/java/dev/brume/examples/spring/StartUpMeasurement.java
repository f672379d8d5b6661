package dev.brume.examples.spring;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.examples.spring.bare.BareApplication;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfSystemProperty;

/** How much longer an application takes to start with Brume in it: {@code mvn verify -pl brume-examples/spring -am -Dtest=StartUpMeasurement -Dmeasure=true}. */
@EnabledIfSystemProperty(named = "measure", matches = "true")
class StartUpMeasurement {
    private static final Pattern STARTED = Pattern.compile("Started BareApplication in ([0-9.]+) seconds");
    private static final int PAIRS = 7;

    @Test
    void startsAreComparedInPairs() throws Exception {
        try (EmbeddedPostgres server = EmbeddedPostgres.builder().start()) {
            String database = server.getJdbcUrl("postgres", "postgres");
            seconds(database, /* withBrume= */ true);
            List<Double> without = new ArrayList<>();
            List<Double> with = new ArrayList<>();
            for (int i = 0; i < PAIRS; i++) {
                without.add(seconds(database, /* withBrume= */ false));
                with.add(seconds(database, /* withBrume= */ true));
            }
            System.out.println("started in seconds, medians of " + PAIRS + " pairs: without " + median(without)
                    + ", with " + median(with) + "; without " + without + ", with " + with);
            assertThat(with).hasSize(PAIRS);
        }
    }

    private static double median(List<Double> all) {
        return all.stream().sorted().skip(PAIRS / 2).findFirst().orElseThrow();
    }

    private static double seconds(String database, boolean withBrume) throws Exception {
        try (Office office = Office.start(
                BareApplication.class,
                database,
                "quay-1",
                "--brume.enabled=" + withBrume,
                "--spring.config.name=bare")) {
            office.get("/actuator/health");
            office.terminate();
            MatchResult started = office.log().stream()
                    .flatMap(line -> STARTED.matcher(line).results())
                    .findFirst()
                    .orElseThrow(() -> new IllegalStateException(String.join("\n", office.log())));
            return Double.parseDouble(started.group(1));
        }
    }
}
