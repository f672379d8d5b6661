package dev.brume;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Names of what jobs share, by namespace. */
class SharedNameTest {
    @ParameterizedTest
    @CsvSource({
        "main, pilots, pilots",
        "main, main/pilots, pilots",
        "harbour, pilots, harbour/pilots",
        "harbour, harbour/pilots, harbour/pilots",
        "harbour, /pilots, /pilots",
        "main, /pilots, /pilots"
    })
    void aNameIsOfTheNamespaceItIsWrittenInOrTheClusters(String namespace, String text, String full) {
        assertThat(SharedName.in(namespace, text, "limits")).isEqualTo(full);
        assertThat(SharedName.in(namespace, SharedName.from(namespace, full), "limits"))
                .as("as a job there writes it")
                .isEqualTo(full);
        assertThat(SharedName.parse(full, "limits")).isEqualTo(full);
        assertThat(SharedName.isOfCluster(full)).isEqualTo(text.startsWith("/"));
        assertThat(SharedName.namespaceOf(full)).isEqualTo(text.startsWith("/") ? "" : namespace);
    }

    @Test
    void anotherNamespacesAndWhatIsNoNameAreRefused() {
        assertThatThrownBy(() -> Job.named("harbour/tides").limit("ferry/pilots"))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("limits: 'ferry/pilots' is another namespace's than harbour");
        for (String text : new String[] {"", "/", "a/b/c", "pi lots", "//pilots", "harbour/"}) {
            assertThatThrownBy(() -> Job.named("harbour/tides").exclusive(text))
                    .as(text)
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("exclusive: '" + text + "' is not a name");
        }
    }
}
