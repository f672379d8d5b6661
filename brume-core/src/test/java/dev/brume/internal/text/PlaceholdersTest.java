package dev.brume.internal.text;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.api.Test;

class PlaceholdersTest {
    @Test
    void placesAreFilledAndWhatIsNoneStays() {
        assertThat(Placeholders.fill("${run} of ${job}: $5 {run} ${", name -> "<" + name + ">"))
                .isEqualTo("<run> of <job>: $5 {run} ${");
        assertThat(Placeholders.fill("${run}${run}", name -> "${job}")).isEqualTo("${job}${job}");
    }

    @Test
    void whatIsNoPlaceIsSaid() {
        assertThatThrownBy(() -> Placeholders.check("body", "tide ${tide}"))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageStartingWith("body: '${tide}' is not a place to fill (expected ${run}, ${job}, ");
        Placeholders.check("body", "${payload} ${env:PIN}");
    }

    /** Each that is opened and never closed once cost a look at all that follows it. */
    @Test
    void manyThatAreNeverClosedAreATextLikeAnyOther() {
        String open = "${".repeat(2_000_000);

        Placeholders.check("body", open);
        assertThat(Placeholders.fill(open, name -> "")).isEqualTo(open);
    }
}
