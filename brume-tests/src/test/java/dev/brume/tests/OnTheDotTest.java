package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.RunFilter;
import dev.brume.schedule.EverySchedule;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Occurrences are planned a little ahead, so that they begin when they are due; nobody can tell but by how little they are late. */
class OnTheDotTest {
    /** So many jobs that are due in turn within each second. */
    private static List<Job> lamps(int count) {
        return IntStream.range(0, count)
                .mapToObj(i -> Job.named("lamp-" + i)
                        .schedule(EverySchedule.of(Duration.ofSeconds(1))
                                .withAnchor(Instant.EPOCH.plusMillis(i * 1000L / count)))
                        .handler("light")
                        .build())
                .toList();
    }

    @ParameterizedTest
    @EnumSource
    void noRunBeginsBeforeItsTimeByTheDatabasesClock(Db db) throws Exception {
        Map<Instant, Instant> begun = new ConcurrentHashMap<>();
        CountDownLatch enough = new CountDownLatch(40);
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("quay-1").build()) {
            brume.handler("light", run -> {
                begun.put(run.planned(), brume.history().now());
                enough.countDown();
            });
            brume.define(lamps(10), "quay");
            brume.start();
            enough.await();
            brume.stop(Duration.ofSeconds(10));

            assertThat(begun).allSatisfy((planned, at) -> assertThat(at).isAfterOrEqualTo(planned));
            assertThat(brume.history().runs(RunFilter.newest(1000)))
                    .allSatisfy(run -> run.attempts()
                            .forEach(attempt -> assertThat(attempt.startedAt())
                                    .isAfterOrEqualTo(run.owed().planned())));
        }
    }

    /** Whoever drops a job just before it is due finds that it owes nothing from then on, or that it was due before. */
    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void aJobThatIsDroppedIsPlannedNoMore(Db db) throws Exception {
        Random random = new Random(7);
        AtomicInteger begun = new AtomicInteger();
        Map<JobName, Instant> dropped = new HashMap<>();
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("quay-1").build();
                Brume office = Brume.on(fresh.another()).instance("office").build()) {
            brume.handler("light", run -> begun.incrementAndGet());
            brume.define(lamps(50), "quay");
            brume.start();
            for (int i = 0; i < 40; i++) {
                int wanted = begun.get() + 1 + random.nextInt(4);
                while (begun.get() < wanted) {
                    Thread.onSpinWait();
                }
                JobName lamp = JobName.parse("lamp-" + (i * 7 + 3) % 50);
                office.drop(lamp);
                dropped.put(lamp, brume.history().now());
            }
            brume.stop(Duration.ofSeconds(10));

            assertThat(dropped).hasSize(40);
            assertThat(brume.history().runs(RunFilter.newest(10_000)))
                    .isNotEmpty()
                    .allSatisfy(run ->
                            assertThat(run.owed().planned()).isBefore(dropped.getOrDefault(run.job(), Instant.MAX)));
        }
    }
}
