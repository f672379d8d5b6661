package dev.brume;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.spi.Store;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mockito.Mockito;

/** Settings from properties and the environment; and the page that lists them. */
class ConfigurationTest {
    private static final Path PAGE = Path.of("..", "docs", "configuration.md");

    private static Brume.Builder instance() {
        return Brume.on(Mockito.mock(Store.class, Mockito.RETURNS_DEEP_STUBS));
    }

    @Test
    void propertiesOfAnApplicationAreTakenAsTheyAreAndTheEnvironmentGoesFirst() {
        Properties properties = new Properties();
        properties.setProperty("brume.lease", "10s");
        properties.setProperty("brume.schema", "timed");
        properties.setProperty("server.port", "8080");
        Configuration all = Configuration.ofEnvironment(
                        Map.of("BRUME_LEASE", "20s", "BRUME_DRAIN_LIMIT", "1m", "BRUME_RUN", "17", "PATH", "/bin"))
                .orElse(Configuration.of(properties));
        assertThat(all.get("lease")).contains("20s");
        assertThat(all.get("schema")).contains("timed");
        assertThat(all.get("drain-limit")).contains("1m");
        assertThat(all.get("workers")).isEmpty();
        assertThat(all).hasToString("brume.lease=20s, brume.schema=timed, brume.drain-limit=1m");
    }

    /** A cluster of containers tells every process of a service that is named so. */
    @Test
    void whatOthersPutIntoTheEnvironmentStopsNobody() {
        Configuration settings = Configuration.ofEnvironment(Map.of(
                "BRUME_SERVICE_HOST", "10.0.0.7",
                "BRUME_SERVICE_PORT_HTTP", "8480",
                "BRUME_PORT", "tcp://10.0.0.7:8480",
                "BRUME_PORT_8480_TCP_ADDR", "10.0.0.7",
                "BRUME_TEST_POSTGRES", "jdbc:postgresql://localhost/test"));
        assertThat(settings).hasToString("");
    }

    @Test
    void everyExampleIsTakenOrIsTheStores() {
        for (Configuration.Key key : Configuration.keys()) {
            instance().configure(Configuration.of(Map.of(key.property(), key.example())));
            instance().configure(Configuration.ofEnvironment(Map.of(key.variable(), key.example())));
        }
    }

    @Test
    void whatIsNoKeyIsRefusedWithTheNearestOne() {
        assertThatThrownBy(() -> Configuration.of(Map.of("brume.leese", "1s", "brume.whatever", "1")))
                .hasMessageContaining("brume.leese is no setting of Brume's (did you mean brume.lease?)")
                .hasMessageContaining("brume.whatever is no setting of Brume's (there are brume.instance, ");
        assertThatThrownBy(() -> Configuration.ofEnvironment(Map.of("BRUME_DRAINLIMIT", "1s")))
                .hasMessage("BRUME_DRAINLIMIT is no setting of Brume's (did you mean BRUME_DRAIN_LIMIT?)");
    }

    @ParameterizedTest
    @CsvSource({
        "brume.lease, 10x, brume.lease: , '10x'",
        "brume.lease, 1s, brume.lease: , 1s is outside 2s",
        "brume.workers, many, brume.workers: , 'many' is not a whole number",
        "brume.lanes, bulk, brume.lanes: , 'bulk' is not a lane with its workers (expected LANE=N)",
        "brume.lanes, bulk=0, brume.lanes: , 0 workers is outside 1 to 10000",
        "brume.labels, a b, brume.labels: , 'a b' is not a name",
        "brume.takes, mail, brume.takes: , 'mail' is neither programs nor requests",
        "brume.log, yes, brume.log: , 'yes' is neither true nor false"
    })
    void whatCannotBeReadIsToldWithItsKey(String key, String value, String place, String why) {
        assertThatThrownBy(() -> instance().configure(Configuration.of(Map.of(key, value))))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageStartingWith(place)
                .hasMessageContaining(why);
        String variable = Configuration.keys().stream()
                .filter(each -> each.property().equals(key))
                .findFirst()
                .orElseThrow()
                .variable();
        assertThatThrownBy(() -> instance().configure(Configuration.ofEnvironment(Map.of(variable, value))))
                .hasMessageStartingWith(variable + ": ");
    }

    /** To write it anew: {@code mvn install -pl brume-core -Dtest=ConfigurationTest -Dbrume.page=write}. */
    @Test
    void thePageListsEveryKey() throws Exception {
        StringBuilder page = new StringBuilder("""
                # Configuration

                Whatever the builders take can also be given as texts: from properties, from a map, or from the environment. In an application,
                where `properties` are its own and the environment goes first:

                ```java
                Configuration settings = Configuration.ofEnvironment().orElse(Configuration.of(properties));
                JdbcStore store = JdbcStore.builder(dataSource).configure(settings).build();
                Brume brume = Brume.on(store).configure(settings).build();
                ```

                What does not begin with `brume.` is left alone; a key that does not exist is refused, with the one that may have been meant, and a value that cannot be
                read with its key and the rule. What the builders are told after that holds. Durations are written `500ms`, `10s`, `2m`, `1h30m`; lists with commas.

                | property | in the environment | | unless it is set | example |
                |---|---|---|---|---|
                """);
        for (Configuration.Key key : Configuration.keys()) {
            page.append("| `").append(key.property());
            page.append("` | `").append(key.variable());
            page.append("` | ").append(key.meaning());
            page.append(" | ").append(key.usual());
            page.append(" | `").append(key.example()).append("` |\n");
        }
        if ("write".equals(System.getProperty("brume.page"))) {
            Files.writeString(PAGE, page);
        }
        assertThat(Files.readString(PAGE))
                .as("docs/configuration.md; write it anew as this test says")
                .isEqualTo(page.toString());
        assertThat(Configuration.keys())
                .extracting(Configuration.Key::name)
                .doesNotHaveDuplicates()
                .containsAll(List.of("lease", "schema"));
    }
}
