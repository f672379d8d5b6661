package dev.brume.internal.work;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class StackTextTest {
    private static Exception nested(int depth) {
        return depth == 0
                ? new IllegalStateException("the pump is dry")
                : new RuntimeException("layer " + depth, nested(depth - 1));
    }

    @Test
    void eachCauseStandsWithItsFirstFrames() {
        String text = StackText.of(nested(2));

        assertThat(text.lines().filter(line -> !line.startsWith("\t")))
                .containsExactly(
                        "java.lang.RuntimeException: layer 2",
                        "Caused by: java.lang.RuntimeException: layer 1",
                        "Caused by: java.lang.IllegalStateException: the pump is dry");
        assertThat(text)
                .contains("at dev.brume.internal.work.StackTextTest.nested")
                .doesNotContain("... ");
    }

    @Test
    void aLongChainIsCutInItsMiddleAndKeepsItsRoot() {
        String text = StackText.of(nested(500));

        assertThat(text.lines())
                .hasSizeLessThanOrEqualTo(61)
                .first()
                .isEqualTo("java.lang.RuntimeException: layer 500");
        assertThat(text).contains("Caused by: java.lang.IllegalStateException: the pump is dry");
    }

    @Test
    void aLongMessageIsCut() {
        assertThat(StackText.of(new IllegalStateException("x".repeat(100_000))).length())
                .isLessThan(10_000);
    }
}
