package dev.brume.simulator;

import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Rate;
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

    /** The rates of some of them. */
    static final Map<String, Rate> RATES = Map.of("cranes", Rate.of(5, Duration.ofSeconds(20)));

    /** The handlers that jobs may need; older instances know the first alone. */
    static final List<String> HANDLERS = List.of("old", "new");

    /** The label that jobs may require; some instances carry it. */
    static final String LABEL = "crane";

    private static final Duration TOLERANCE = Duration.ofSeconds(5);

    private final SplittableRandom random;

    RandomDefinitions(SplittableRandom random) {
        this.random = random;
    }

    private boolean oneIn(int count) {
        return random.nextInt(count) == 0;
    }

    /**
     * Makes a job up.
     *
     * @param number its own; those that follow it have higher ones, so that none ever leads back
     * @param most how many there may be
     */
    Job job(int number, int most) {
        Job.Builder job = Job.named(name(number)).priority(random.nextInt(10));
        if (oneIn(4) && number + 1 < most) {
            FollowUp.On[] ends = FollowUp.On.values();
            job.followUp(ends[random.nextInt(ends.length)], name(number + 1 + random.nextInt(most - number - 1)));
        }
        if (oneIn(6)) {
            job.requireLabel(LABEL);
        }
        if (oneIn(6)) {
            return onEach(job).build();
        }
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

    static String name(int number) {
        return "job-" + number;
    }

    private Job.Builder onEach(Job.Builder job) {
        policies(job);
        everyNowAndThen(job);
        return job.program("simulated")
                .onEachInstance()
                .ifBusy(random.nextBoolean() ? IfBusy.skip() : IfBusy.alongside(1 + random.nextInt(3)));
    }

    private void schedules(Job.Builder job) {
        everyNowAndThen(job);
        if (oneIn(4)) {
            job.afterEnd(Duration.ofSeconds(2 + random.nextInt(20)));
        }
    }

    private void everyNowAndThen(Job.Builder job) {
        if (random.nextBoolean()) {
            job.every(Duration.ofSeconds(1 + random.nextInt(30)));
        } else {
            job.cron("*/" + (1 + random.nextInt(30)) + " * * * * *", "Atlantic/Azores");
        }
        if (oneIn(4)) {
            job.schedule(EverySchedule.of(Duration.ofSeconds(7)).with(Terms.NONE.atMost(1 + random.nextInt(200))));
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
                    case 0 -> IfMissed.skip().tolerance(TOLERANCE);
                    case 1 -> IfMissed.runEach(1 + random.nextInt(5)).tolerance(TOLERANCE);
                    default -> IfMissed.runLatest().tolerance(TOLERANCE);
                });
        if (oneIn(4)) {
            job.startWithin(Duration.ofSeconds(1 + random.nextInt(20)));
        }
        job.ifFailed(IfFailed.attempts(1 + random.nextInt(3), Duration.ofSeconds(random.nextInt(5))));
        job.ifLost(oneIn(3) ? IfLost.GIVE_UP : IfLost.RUN_AGAIN);
    }
}
