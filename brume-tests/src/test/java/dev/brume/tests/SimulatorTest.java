package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.testkit.sim.Faults;
import dev.brume.testkit.sim.Simulator;
import java.time.Duration;
import org.junit.jupiter.api.Test;

/** The duties in virtual time: promises hold whatever goes wrong, from one seed each. */
class SimulatorTest {
    private static final int SEEDS = Integer.getInteger("brume.simulator.seeds", 150);
    private static final long FIRST = Long.getLong("brume.simulator.first", 1);

    @Test
    void withoutFaultsEveryRunEndsAndNothingIsTakenOver() {
        Simulator.Result result = new Simulator(42, 3, Faults.none()).run(Duration.ofMinutes(10));

        assertThat(result.endedRuns()).isGreaterThan(200);
        assertThat(result.takenOver()).isZero();
        assertThat(result.deaths()).isZero();
    }

    @Test
    void underManyFaultsThePromisesHold() {
        int deaths = 0;
        int takenOver = 0;
        int ended = 0;
        for (long seed = FIRST; seed < FIRST + SEEDS; seed++) {
            Simulator.Result result =
                    new Simulator(seed, 1 + (int) (seed % 4), Faults.many()).run(Duration.ofMinutes(20));
            deaths += result.deaths();
            takenOver += result.takenOver();
            ended += result.endedRuns();
        }
        System.out.println("simulator: " + SEEDS + " seeds, " + ended + " runs ended, " + deaths + " deaths, "
                + takenOver + " takeovers");
        // A simulation in which nothing went wrong would prove nothing.
        assertThat(deaths).isGreaterThan(SEEDS);
        assertThat(takenOver).isGreaterThan(SEEDS);
        assertThat(ended).isGreaterThan(100 * SEEDS);
    }

    @Test
    void theSameSeedGivesTheSameSimulation() {
        Simulator.Result first = new Simulator(7, 3, Faults.many()).run(Duration.ofMinutes(10));
        Simulator.Result second = new Simulator(7, 3, Faults.many()).run(Duration.ofMinutes(10));

        assertThat(second).isEqualTo(first);
    }
}
