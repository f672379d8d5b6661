package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.JobRow;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** A run that cannot begin in time is skipped, whatever kept it. */
class StartWithinTest {
    private static final JobName NIGHT = JobName.parse("night-watch");
    private static final JobName TIDES = JobName.parse("tides");

    private final CountDownLatch go = new CountDownLatch(1);
    private final BlockingQueue<Long> started = new LinkedBlockingQueue<>();
    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();

    private Event skipped() throws InterruptedException {
        for (Event event = events.poll(30, TimeUnit.SECONDS);
                event != null;
                event = events.poll(30, TimeUnit.SECONDS)) {
            if (event.reason().filter(Reason.TOO_LATE::equals).isPresent()) {
                return event;
            }
        }
        throw new AssertionError("no event of a run that was too late");
    }

    private static RunView first(Brume brume, Predicate<RunView> condition) {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        while (true) {
            List<RunView> runs = brume.history().runs(RunFilter.newest(100));
            Optional<RunView> found = runs.stream().filter(condition).findFirst();
            if (found.isPresent()) {
                return found.get();
            }
            assertThat(System.nanoTime() - until).as("waited in vain: %s", runs).isNegative();
        }
    }

    @ParameterizedTest
    @EnumSource
    void whetherNobodyServesItsLaneOrItsPlaceStaysTaken(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store())
                        .instance("quay-1")
                        .poll(Duration.ofMillis(100))
                        .engineListener(events::add)
                        .build()) {
            brume.handler("work", run -> {
                started.add(run.id());
                go.await();
            });
            brume.define(Job.named(NIGHT)
                    .handler("work")
                    .lane("night")
                    .startWithin(Duration.ofSeconds(1))
                    .build());
            brume.define(Job.named(TIDES)
                    .handler("work")
                    .startWithin(Duration.ofSeconds(2))
                    .build());
            brume.start();

            brume.oneOffs().add(OneOff.of(NIGHT, "unserved").at(brume.history().now()));
            RunView unserved =
                    first(brume, run -> run.job().equals(NIGHT) && run.outcome().isPresent());
            assertThat(unserved.outcome()).contains(Outcome.SKIPPED);
            assertThat(unserved.reason()).contains(Reason.TOO_LATE.name());
            assertThat(unserved.attempts()).isEmpty();
            assertThat(skipped().job()).as("a listener of this job hears of it").contains(NIGHT);

            brume.oneOffs()
                    .add(OneOff.of(NIGHT, "over already")
                            .at(brume.history().now().minusSeconds(60)));
            RunView over = first(
                    brume,
                    run -> run.owed().oneOffKey().equals(Optional.of("over already"))
                            && run.outcome().isPresent());
            assertThat(over.reason()).contains(Reason.TOO_LATE.name());

            brume.oneOffs().add(OneOff.of(TIDES, "first").at(brume.history().now()));
            assertThat(started.poll(30, TimeUnit.SECONDS)).isNotNull();
            brume.oneOffs().add(OneOff.of(TIDES, "second").at(brume.history().now()));
            RunView second = first(
                    brume,
                    run -> run.owed().oneOffKey().equals(Optional.of("second"))
                            && run.outcome().isPresent());
            assertThat(second.reason()).contains(Reason.TOO_LATE.name());
            assertThat(first(brume, run -> run.owed().oneOffKey().equals(Optional.of("first")))
                            .state())
                    .as("one that has begun may take its time")
                    .contains(RunState.RUNNING);

            long byHand = brume.orders("anna", "").runNow(TIDES).id();
            go.countDown();
            RunView ended =
                    first(brume, run -> run.id() == byHand && run.outcome().isPresent());
            assertThat(ended.owed().origin()).isEqualTo(Origin.BY_HAND);
            assertThat(ended.outcome()).contains(Outcome.SUCCEEDED);
            List<JobRow> wrong = fresh.store().transact(tx -> tx.crowdedUnawares(10));
            assertThat(wrong).isEmpty();
        }
    }
}
