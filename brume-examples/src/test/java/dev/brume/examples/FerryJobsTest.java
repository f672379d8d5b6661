package dev.brume.examples;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.RunState;
import dev.brume.testkit.BeginningAt;
import dev.brume.testkit.VirtualBrume;
import dev.brume.testkit.VirtualBrumeExtension;
import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** How jobs are tested: in virtual time, on the test's own thread, without a database. */
@ExtendWith(VirtualBrumeExtension.class)
class FerryJobsTest {
    /** On the last Sunday of October the hour from one to two comes twice; the manifest is written once. */
    @Test
    @BeginningAt("2026-10-24T12:00:00Z")
    void theManifestIsWrittenOnceInTheNightThatHasAnHourMore(VirtualBrume office) {
        FerryJobs.define(office.brume(), () -> 17);

        office.advance(Duration.ofHours(24));

        office.ledger("ferry-manifest").succeeded(1).planned(Instant.parse("2026-10-25T00:45:00Z"));
        office.ledger("ferry-fares").succeeded(1).lastResult("204 crowns");
    }

    @Test
    void aFailedManifestIsWrittenAMinuteLaterAndFaresFollowThen(VirtualBrume office) {
        int[] tries = {0};
        FerryJobs.define(office.brume(), () -> {
            if (++tries[0] == 1) {
                throw new IllegalStateException("the gate does not answer");
            }
            return 3;
        });

        assertThat(office.run("ferry-manifest").state()).contains(RunState.BACKING_OFF);
        office.ledger("ferry-fares").planned();
        office.advance(Duration.ofMinutes(1));

        office.ledger("ferry-fares").succeeded(1).lastResult("36 crowns");
    }
}
