package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class JsonTextTest {
    @Test
    void whatIsWrittenIsReadAgain() throws IOException {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("name", "Nebelhorn \"Süd\" 🌫\n");
        document.put("attempts", 3);
        document.put("fence", Long.MAX_VALUE);
        document.put("factor", 2.0);
        document.put("enabled", true);
        document.put("tags", List.of("tides", "boards"));
        document.put("nested", Map.of("list", new ArrayList<>(Arrays.asList(1, null, Map.of()))));

        String text = JsonText.write(document);

        assertThat(JsonText.map(text)).isEqualTo(document);
        assertThat(new ArrayList<>(JsonText.map(text).keySet())).isEqualTo(new ArrayList<>(document.keySet()));
        assertThat(JsonText.list(JsonText.write(List.of(document)))).isEqualTo(List.of(document));
        assertThat(text).startsWith("{\"name\":\"Nebelhorn \\\"Süd\\\" 🌫\\n\",\"attempts\":3,");
    }

    @Test
    void membersThatAreNullAreLeftOut() throws IOException {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("error", null);

        assertThat(JsonText.write(document)).isEqualTo("{}");
        assertThat(JsonText.map("{\"error\": null}")).containsEntry("error", null);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "[]", "{\"a\": 1", "{\"a\": [1, 2", "{\"a\"}", "nonsense", "null"})
    void whatIsNoObjectIsRefused(String text) {
        assertThatThrownBy(() -> JsonText.map(text)).isInstanceOf(IOException.class);
    }
}
