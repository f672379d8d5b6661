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
                "PIN: 1234, quay: 4|PIN: ***",
                "a quay, PIN: 1234, quay: 4|a quay, PIN: ***, quay: 4",
                "notify --pin 4711 --quay 4|notify --pin *** --quay 4",
                "notify --pin '47 11' --quay 4|notify --pin '***' --quay 4",
                "notify --pin=4711 -pin 4712 --pin --quay|notify --pin=*** -pin *** --pin --quay",
                "<pin>4711</pin><quay>4</quay>|<pin>***</pin><quay>4</quay>",
                "<gate pin=\"4711\" quay=\"4\"/>|<gate pin=\"***\" quay=\"4\"/>",
                "{\"body\":\"{\\\"pin\\\":\\\"47\\\\\\\"11\\\",\\\"quay\\\":4}\"}|{\"body\":\"{\\\"pin\\\":\\\"***\\\",\\\"quay\\\":4}\"}",
                "{\"body\":\"{\\\"pin\\\":4711,\\\"quay\\\":4}\"}|{\"body\":\"{\\\"pin\\\":\\\"***\\\",\\\"quay\\\":4}\"}",
                "q=%7B%22pin%22%3A4711%7D&next=1|q=%7B%22pin%22%3A***%7D&next=1",
                "u=pin%3D4711%26quay%3D4|u=pin%3D***%26quay%3D4",
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
    void theWholeValueOfAHeaderAndABlockAreReplaced() {
        Mask headers = Mask.of(List.of("Authorization", "pin", "card"));

        assertThat(headers.apply("> Authorization: Bearer abc.def ghi\r\n> Accept: */*"))
                .isEqualTo("> Authorization: ***\r\n> Accept: */*");
        assertThat(headers.apply("curl -H 'Authorization: Digest u=\"x\", r=\"y\"' https://board.example"))
                .isEqualTo("curl -H 'Authorization: ***' https://board.example");
        assertThat(headers.apply("sent with authorization: Bearer abc.def to the board"))
                .isEqualTo("sent with authorization: ***");
        assertThat(headers.apply("pin: |\n  47\n\n  11\nquay: 4")).isEqualTo("pin: ***\nquay: 4");
        assertThat(headers.apply("- card:\n    no: 1\n    x: 2\n  quay: 4")).isEqualTo("- card: ***\n  quay: 4");
        assertThat(headers.apply("<s:pin kind='x'>47\n11</s:pin> <pin/> <pinned>1</pinned>"))
                .isEqualTo("<s:pin kind='x'>***</s:pin> <pin/> <pinned>1</pinned>");
        assertThat(headers.apply("pin:\nquay: 4")).isEqualTo("pin:\nquay: 4");
    }

    @Test
    void aValueIsFoundInTheFormsInWhichItIsWritten() {
        String secret = "a \"b\"&c/d\nsecond line";
        Mask known = Mask.of(List.of("KEY", "SHORTER"), name -> Optional.of(name.equals("KEY") ? secret : "second"));

        assertThat(known.apply("q=a+%22b%22%26c%2Fd and a%20%22b%22%26c%2Fd")).isEqualTo("q=*** and ***");
        assertThat(known.apply("{\"k\":\"a \\\"b\\\"&c/d\\nsecond line\"}")).isEqualTo("{\"k\":\"***\"}");
        assertThat(known.apply("<k>a &quot;b&quot;&amp;c/d</k>")).isEqualTo("<k>***</k>");
        assertThat(known.apply("  a \"b\"&c/d\n  second line\n")).isEqualTo("  ***\n  ***\n");
        assertThat(known.apply("the second line")).as("the longest first").isEqualTo("the ***");
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
