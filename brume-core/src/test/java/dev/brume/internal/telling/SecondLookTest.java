package dev.brume.internal.telling;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.JobName;
import dev.brume.history.CauseRow;
import dev.brume.notice.Trouble;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
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

    @Test
    void whatGoesOnIsDueOnceForEachTimeThatItBegan() {
        SecondLook look = new SecondLook(100);
        look.goesOn(List.of(failing(Instant.EPOCH)), 0);
        assertThat(look.due(100, 10)).containsExactly(TIDES);
        look.looked(List.of(TIDES));
        look.goesOn(List.of(failing(Instant.EPOCH)), 200);
        assertThat(look.due(300, 10)).isEmpty();

        look.goesOn(List.of(failing(Instant.EPOCH.plusSeconds(60))), 400);
        assertThat(look.due(500, 10)).containsExactly(TIDES);
    }

    private static CauseRow failing(Instant since) {
        return CauseRow.begins(Trouble.FAILING, TIDES.toString(), Optional.of(1L), since);
    }
}
