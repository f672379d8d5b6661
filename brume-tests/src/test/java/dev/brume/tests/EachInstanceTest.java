package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.Run;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What is owed by each instance, and what only some may run, on every database. */
class EachInstanceTest {
    private static final long SECONDS = 30;

    private final BlockingQueue<String> ran = new LinkedBlockingQueue<>();
    private final CountDownLatch never = new CountDownLatch(1);

    private Brume instance(Db.Fresh fresh, String name, String... labels) {
        Brume.Builder builder = Brume.on(fresh.store())
                .instance(name)
                .lease(Duration.ofSeconds(10))
                .poll(Duration.ofMillis(100));
        List.of(labels).forEach(builder::label);
        Brume brume = builder.build();
        brume.handler("note", run -> ran.add(name));
        brume.handler("stay", run -> stay(name, run));
        return brume;
    }

    private void stay(String name, Run run) throws InterruptedException {
        ran.add(name);
        never.await();
        run.result("went on");
    }

    private String nextRan() throws InterruptedException {
        String next = ran.poll(SECONDS, TimeUnit.SECONDS);
        assertThat(next).as("an instance that ran it").isNotNull();
        return next;
    }

    @ParameterizedTest
    @EnumSource
    void everyInstanceThatIsThereRunsEachOccurrenceOnce(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume one = instance(fresh, "quay-1");
                Brume two = instance(fresh, "quay-2");
                Brume three = instance(fresh, "quay-3")) {
            one.start();
            two.start();
            three.start();
            while (one.history().sessions(false).size() < 3) {
                Thread.onSpinWait();
            }
            one.define(Job.named("board-cache")
                    .handler("note")
                    .every(Duration.ofSeconds(1))
                    .onEachInstance()
                    .build());
            Map<String, Integer> counts = new HashMap<>();
            while (counts.size() < 3 || counts.values().stream().anyMatch(count -> count < 2)) {
                counts.merge(nextRan(), 1, Integer::sum);
            }
            one.stop(Brume.DRAIN_LIMIT);
            two.stop(Brume.DRAIN_LIMIT);
            three.stop(Brume.DRAIN_LIMIT);

            List<RunView> runs = one.history().runs(RunFilter.newest(100));
            assertThat(runs)
                    .filteredOn(run -> run.lastAttempt().isPresent())
                    .isNotEmpty()
                    .allSatisfy(run -> assertThat(run.owed().slot())
                            .isEqualTo(run.lastAttempt().orElseThrow().instance()));
            Map<Object, List<RunView>> byOccurrence = runs.stream()
                    .collect(Collectors.groupingBy(run -> run.owed().planned()));
            assertThat(byOccurrence.values())
                    .anySatisfy(each -> assertThat(each)
                            .extracting(run -> run.owed().slot())
                            .containsExactlyInAnyOrder("quay-1", "quay-2", "quay-3"));
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatAnInstanceLeavesBehindIsLostAndMovesToNobody(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume one = instance(fresh, "quay-1");
                Brume two = instance(fresh, "quay-2")) {
            one.define(Job.named("board-cache")
                    .handler("stay")
                    .every(Duration.ofSeconds(1))
                    .ifMissed(IfMissed.skip())
                    .onEachInstance()
                    .build());
            two.start();
            assertThat(nextRan()).isEqualTo("quay-2");
            two.stop(Duration.ofMillis(1));
            one.start();
            assertThat(nextRan()).isEqualTo("quay-1");

            List<RunView> ended = one.history().runs(RunFilter.newest(100)).stream()
                    .filter(run -> run.owed().slot().equals("quay-2"))
                    .toList();
            assertThat(ended).anySatisfy(run -> {
                assertThat(run.outcome()).contains(Outcome.LOST);
                assertThat(run.reason()).contains(Reason.INSTANCE_LEFT.name());
            });
            assertThat(ended)
                    .allSatisfy(
                            run -> assertThat(run.outcome()).isPresent().get().isIn(Outcome.LOST, Outcome.SKIPPED));
            assertThat(ended)
                    .filteredOn(run -> run.outcome().get() == Outcome.SKIPPED)
                    .allSatisfy(run -> assertThat(run.reason()).contains(Reason.BUSY.name()));
            never.countDown();
        }
    }

    @ParameterizedTest
    @EnumSource
    void onlyThoseWhoCarryAllLabelsRunWhatRequiresThem(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume bare = instance(fresh, "quay-1");
                Brume crane = instance(fresh, "quay-2", "crane");
                Brume both = instance(fresh, "quay-3", "crane", "north", "east")) {
            bare.start();
            crane.start();
            bare.define(Job.named("lift")
                    .handler("note")
                    .requireLabel("crane")
                    .requireLabel("north")
                    .build());
            bare.define(Job.named("free").handler("note").build());
            for (int i = 0; i < 5; i++) {
                bare.orders("anna", "").runNow(Job.named("lift").name());
            }
            bare.orders("anna", "").runNow(Job.named("free").name());
            assertThat(nextRan()).isIn("quay-1", "quay-2");

            both.start();

            for (int i = 0; i < 5; i++) {
                assertThat(nextRan()).isEqualTo("quay-3");
            }
            assertThat(both.history().sessions(false))
                    .filteredOn(session -> session.row().instance().equals("quay-3"))
                    .allSatisfy(
                            session -> assertThat(session.row().labels()).containsExactly("crane", "east", "north"));
        }
    }
}
