package dev.brume.internal.telling;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.JobName;
import org.junit.jupiter.api.Test;

/** The jobs that are looked at once more. */
class SecondLookTest {
    private static final JobName TIDES = JobName.parse("tides");
    private static final JobName LAMPS = JobName.parse("lamps");

    @Test
    void aJobIsDueUntilItWasLookedAtThoughTheStoreWasAwayMeanwhile() {
        SecondLook look = new SecondLook(100);
        look.begun(TIDES, 0);
        look.begun(LAMPS, 50);

        assertThat(look.due(99, 10)).isEmpty();
        assertThat(look.due(100, 10)).containsExactly(TIDES);
        assertThat(look.due(150, 10)).containsExactly(TIDES, LAMPS);
        assertThat(look.due(150, 1)).containsExactly(TIDES);

        look.looked(look.due(150, 1));
        assertThat(look.due(150, 10)).containsExactly(LAMPS);
    }
}
