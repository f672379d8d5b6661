package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.simulator.Faults;
import dev.brume.simulator.Sabotage;
import dev.brume.simulator.Scenario;
import dev.brume.simulator.Shrinker;
import dev.brume.simulator.Simulator;
import java.time.Duration;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The duties in virtual time: promises hold whatever goes wrong, from one seed each. */
class SimulatorTest {
    private static final int SEEDS = Integer.getInteger("brume.simulator.seeds", 10);
    private static final int MORE_SEEDS = 30;
    private static final long FIRST = Long.getLong("brume.simulator.first", 1);
    private static final String REPLAY = System.getProperty("brume.simulator.replay", "");
    private static final Duration LENGTH = Duration.ofMinutes(20);

    private final Shrinker shrinker = new Shrinker(Sabotage.NONE);

    @Test
    void withoutFaultsEveryRunEndsAndNothingIsTakenOver() {
        Simulator.Result result = shrinker.run(Scenario.of(42, 3, Duration.ofMinutes(10), Faults.none()));

        assertThat(result.endedRuns()).isGreaterThan(200);
        assertThat(result.takenOver()).isZero();
        assertThat(result.deaths()).isZero();
    }

    @Test
    void underManyFaultsThePromisesHold() {
        if (!REPLAY.isEmpty()) {
            System.out.println(new Simulator(Scenario.parse(REPLAY, Faults.many())).run());
            return;
        }
        promisesHold(FIRST, SEEDS);
    }

    @Test
    @Tag("long")
    void underManyFaultsThePromisesHoldForMoreSeeds() {
        promisesHold(FIRST + SEEDS, MORE_SEEDS);
    }

    private void promisesHold(long first, int seeds) {
        int deaths = 0;
        int takenOver = 0;
        int ended = 0;
        int failOvers = 0;
        int jumps = 0;
        long faults = 0;
        int delivered = 0;
        int answersLost = 0;
        for (long seed = first; seed < first + seeds; seed++) {
            Simulator.Result result = shrinker.run(Scenario.of(seed, 1 + (int) (seed % 4), LENGTH, Faults.many()));
            deaths += result.deaths();
            takenOver += result.takenOver();
            ended += result.endedRuns();
            failOvers += result.failOvers();
            jumps += result.clockJumps();
            faults += result.faults();
            delivered += result.delivered();
            answersLost += result.answersLost();
        }
        System.out.println("simulator: " + seeds + " seeds of " + LENGTH.toMinutes() + " minutes, " + ended
                + " runs ended, " + faults + " faults, " + deaths + " deaths, " + takenOver + " takeovers, " + failOvers
                + " failovers, " + jumps + " clock jumps, " + delivered + " notices, " + answersLost + " answers lost");
        // A simulation in which nothing went wrong would prove nothing.
        assertThat(deaths).isGreaterThan(seeds);
        assertThat(takenOver).isGreaterThan(seeds);
        assertThat(ended).isGreaterThan(100 * seeds);
        assertThat(failOvers).isGreaterThan(seeds / 2);
        assertThat(jumps).isGreaterThan(seeds / 2);
        assertThat(delivered).isGreaterThan(seeds);
        assertThat(answersLost).isGreaterThan(seeds / 2);
    }

    @Test
    void theSameScenarioGivesTheSameSimulation() {
        Scenario scenario = Scenario.of(7, 3, Duration.ofMinutes(10), Faults.many());

        assertThat(new Simulator(scenario).run()).isEqualTo(new Simulator(scenario).run());
        assertThat(Scenario.parse(scenario.replay(), Faults.many())).isEqualTo(scenario);
    }
}
