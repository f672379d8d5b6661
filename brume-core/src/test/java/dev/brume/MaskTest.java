package dev.brume;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class MaskTest {
    private final Mask mask = Mask.of(List.of("pin", "card"));

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "pin=1234 quay=4|pin=*** quay=4",
                "PIN: 1234, quay: 4|PIN: ***, quay: 4",
                "{\"pin\": \"12\\\"34\", \"quay\": 4}|{\"pin\": \"***\", \"quay\": 4}",
                "{\"pin\":1234,\"quay\":4}|{\"pin\":\"***\",\"quay\":4}",
                "{\"card\": {\"no\": [1, \"}\"], \"x\": 2}, \"quay\": 4}|{\"card\": \"***\", \"quay\": 4}",
                "{\"card\": [\"a\", \"b\"]}|{\"card\": \"***\"}",
                "pin = 'a b' and more|pin = '***' and more",
                "a=1&pin=77&b=2|a=1&pin=***&b=2",
                "spin=1 pinned: 2 the pin is 3|spin=1 pinned: 2 the pin is 3",
                "pin=|pin=",
                "pin: \"never closed|pin: \"***\"",
            })
    void whatStandsBehindANameIsReplacedAndNothingElse(String text, String masked) {
        assertThat(mask.apply(text)).isEqualTo(masked);
        assertThat(mask.apply(masked)).as("again").isEqualTo(masked);
    }

    @Test
    void theValueOfAVariableIsReplacedWhereverItOccurs() {
        Map<String, String> variables = Map.of("BOARD_TOKEN", "s3cr.t*", "SHORT", "no");
        Mask known =
                Mask.of(List.of("BOARD_TOKEN", "SHORT", "ABSENT"), name -> Optional.ofNullable(variables.get(name)));

        assertThat(known.apply("sent s3cr.t* to the board, no answer")).isEqualTo("sent *** to the board, no answer");
    }

    @Test
    void withoutNamesNothingIsReplaced() {
        assertThat(Mask.of(List.of()).isEmpty()).isTrue();
        assertThat(Mask.of(List.of()).apply("pin=1234")).isEqualTo("pin=1234");
    }
}
