package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.FollowUp;
import dev.brume.IfFailed;
import dev.brume.Job;
import java.time.Duration;
import java.util.function.Supplier;

/** The jobs of a ferry office, as an application would keep them together; {@code FerryJobsTest} shows how they are tested. */
public final class FerryJobs {
    private FerryJobs() {}

    /**
     * Defines them.
     *
     * @param cars counts the cars on the next ferry
     */
    public static void define(Brume brume, Supplier<Integer> cars) {
        brume.define(Job.named("ferry-fares"), run -> {
            int count = Integer.parseInt(run.parent().orElseThrow().result().orElseThrow());
            run.result(count * 12 + " crowns");
        });
        brume.define(
                Job.named("ferry-manifest")
                        .cron("45 1 * * *", "Europe/Lisbon")
                        .timeLimit(Duration.ofMinutes(5))
                        .ifFailed(IfFailed.attempts(3, Duration.ofMinutes(1)))
                        .followUp(FollowUp.On.SUCCESS, "ferry-fares"),
                run -> run.result(cars.get().toString()));
    }
}
