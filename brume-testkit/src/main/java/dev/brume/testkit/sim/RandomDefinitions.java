package dev.brume.testkit.sim;

import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;

/** Makes up jobs. Confined to one thread. */
final class RandomDefinitions {
    /** The limits that jobs may name. */
    static final Map<String, Integer> LIMITS = Map.of("pilots", 1, "cranes", 2, "tugs", 3);

    /** The handlers that jobs may need; older instances know the first alone. */
    static final List<String> HANDLERS = List.of("old", "new");

    private static final Duration TOLERANCE = Duration.ofSeconds(5);

    private final SplittableRandom random;

    RandomDefinitions(SplittableRandom random) {
        this.random = random;
    }

    private boolean oneIn(int count) {
        return random.nextInt(count) == 0;
    }

    Job job(String name) {
        Job.Builder job = Job.named(name).priority(random.nextInt(10));
        if (oneIn(3)) {
            job.handler(HANDLERS.get(random.nextInt(HANDLERS.size())));
        } else {
            job.program("simulated");
        }
        schedules(job);
        policies(job);
        if (oneIn(5)) {
            job.exclusive("berth-" + random.nextInt(2));
        }
        if (oneIn(4)) {
            job.limit(List.of("pilots", "cranes", "tugs").get(random.nextInt(3)));
        }
        return job.build();
    }

    private void schedules(Job.Builder job) {
        if (random.nextBoolean()) {
            job.every(Duration.ofSeconds(1 + random.nextInt(30)));
        } else {
            job.cron("*/" + (1 + random.nextInt(30)) + " * * * * *", "Atlantic/Azores");
        }
        if (oneIn(4)) {
            job.schedule(EverySchedule.of(Duration.ofSeconds(7)).with(Terms.NONE.atMost(1 + random.nextInt(200))));
        }
        if (oneIn(4)) {
            job.afterFinish(Duration.ofSeconds(2 + random.nextInt(20)));
        }
    }

    private void policies(Job.Builder job) {
        job.ifBusy(
                switch (random.nextInt(4)) {
                    case 0 -> IfBusy.skip();
                    case 3 -> IfBusy.supersede();
                    case 1 -> IfBusy.waiting(1 + random.nextInt(4));
                    default -> IfBusy.alongside(1 + random.nextInt(4));
                });
        job.ifMissed(
                switch (random.nextInt(3)) {
                    case 0 -> IfMissed.skip().within(TOLERANCE);
                    case 1 -> IfMissed.runEach(1 + random.nextInt(5)).within(TOLERANCE);
                    default -> IfMissed.runLatest().within(TOLERANCE);
                });
        if (oneIn(4)) {
            job.startWithin(Duration.ofSeconds(1 + random.nextInt(20)));
        }
        job.ifFailed(IfFailed.attempts(1 + random.nextInt(3), Duration.ofSeconds(random.nextInt(5))));
        job.ifLost(oneIn(3) ? IfLost.GIVE_UP : IfLost.RUN_AGAIN);
    }
}
