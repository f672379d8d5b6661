package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Cancelled;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.Listener;
import dev.brume.ListenerStatus;
import dev.brume.Outcome;
import dev.brume.PayloadType;
import dev.brume.Reason;
import dev.brume.history.RunView;
import dev.brume.memory.MemoryStore;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Listeners, checks before starts, progress and typed payloads, with real threads on the store in memory. */
class ListenersTest {
    private static final long SECONDS = 30;

    private final MemoryStore store = new MemoryStore();
    private final BlockingQueue<Event> problems = new LinkedBlockingQueue<>();
    private final CountDownLatch go = new CountDownLatch(1);
    private final Brume brume = Brume.on(store)
            .instance("quay-1")
            .poll(Duration.ofMillis(50))
            .engineListener(event -> {
                if (event.kind() == Event.Kind.PROBLEM) {
                    problems.add(event);
                }
            })
            .build();

    ListenersTest() {
        brume.define(Job.named("tides").tag("night"), run -> run.result("3.1 m"));
        brume.define(Job.named("lamps"), run -> run.result("lit"));
    }

    @AfterEach
    void stop() {
        go.countDown();
        brume.close();
    }

    private long start(String job) {
        return brume.orders("anna", "").runNow(JobName.parse(job)).id();
    }

    private static Event next(BlockingQueue<Event> queue) throws InterruptedException {
        Event event = queue.poll(SECONDS, TimeUnit.SECONDS);
        assertThat(event).as("an event").isNotNull();
        return event;
    }

    private RunView ended(long run) {
        await(() -> brume.history().run(run).orElseThrow().outcome().isPresent());
        return brume.history().run(run).orElseThrow();
    }

    private static void await(BooleanSupplier condition) {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(SECONDS);
        while (!condition.getAsBoolean()) {
            assertThat(System.nanoTime() - until).as("waited in vain").isNegative();
            Thread.onSpinWait();
        }
    }

    @Test
    void eachHearsWhatItAskedForInItsOrder() throws Exception {
        BlockingQueue<Event> ends = new LinkedBlockingQueue<>();
        BlockingQueue<Event> nights = new LinkedBlockingQueue<>();
        BlockingQueue<Event> lamps = new LinkedBlockingQueue<>();
        brume.listen("ends", EventFilter.of(Event.Kind.SUCCEEDED, Event.Kind.FAILED), ends::add);
        brume.listen(
                "nights",
                EventFilter.of(Event.Kind.PLANNED, Event.Kind.STARTED, Event.Kind.SUCCEEDED)
                        .tag("night"),
                nights::add);
        brume.listen("lamps", EventFilter.ALL.job("lamps"), lamps::add);
        brume.start();

        long lit = start("lamps");
        assertThat(next(ends).run()).hasValue(lit);
        long tide = start("tides");

        assertThat(next(ends).run()).hasValue(tide);
        for (BlockingQueue<Event> queue : List.of(nights, lamps)) {
            List<Event.Kind> heard =
                    List.of(next(queue).kind(), next(queue).kind(), next(queue).kind());
            assertThat(heard).contains(Event.Kind.PLANNED);
            assertThat(heard)
                    .as("whoever ordered it may tell of that late")
                    .containsSubsequence(Event.Kind.STARTED, Event.Kind.SUCCEEDED);
        }
        assertThat(lamps).isEmpty();
    }

    @Test
    void oneThatThrowsOrIsSlowIsCountedAndReportedAndHoldsNothingUp() throws Exception {
        brume.listen("broken", EventFilter.of(Event.Kind.SUCCEEDED), event -> {
            throw new IllegalStateException("broken");
        });
        brume.listen("slow", EventFilter.of(Event.Kind.DEFINED), event -> go.await());
        brume.start();

        ended(start("tides"));
        assertThat(next(problems).text()).contains("listener 'broken' threw").contains("broken");
        for (int i = 0; i <= Listener.MOST_WAITING + 2; i++) {
            brume.define(
                    Job.named("tides").description("no. " + i).handler("tides").build());
        }

        assertThat(next(problems).text()).contains("listener 'slow' is too slow");
        ListenerStatus slow = brume.listeners().get(1);
        assertThat(slow.name()).isEqualTo("slow");
        assertThat(slow.waiting()).isEqualTo(Listener.MOST_WAITING);
        assertThat(slow.passedOver()).isPositive();
        assertThat(brume.listeners().get(0).failed()).isEqualTo(1);
        assertThat(ended(start("lamps")).outcome()).contains(Outcome.SUCCEEDED);
    }

    @Test
    void aCheckTurnsRunsDownInItsWordsAndOneThatThrowsOrIsSilentDoesNot() throws Exception {
        brume.beforeStart("storm", JobScope.tag("night"), run -> Optional.of("gale warning for " + run.job()));
        brume.beforeStart("broken", JobScope.job("lamps"), run -> {
            throw new IllegalStateException("no barometer");
        });
        brume.beforeStart("silent", JobScope.job("lamps"), run -> {
            go.await();
            return Optional.of("too late");
        });
        brume.start();

        RunView tide = ended(start("tides"));
        RunView lamps = ended(start("lamps"));

        assertThat(tide.outcome()).contains(Outcome.SKIPPED);
        assertThat(tide.reason()).contains(Reason.TURNED_DOWN.name());
        assertThat(tide.lastAttempt().orElseThrow().error()).contains("storm: gale warning for tides");
        assertThat(lamps.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(next(problems).text()).contains("check 'broken' threw; it turns nothing down");
        assertThat(next(problems).text()).contains("check 'silent' did not answer within 2s");
        assertThat(brume.listeners()).extracting(ListenerStatus::passedOver).containsExactly(0L, 0L, 1L);
    }

    @Test
    void progressIsShownWhileTheRunGoesOn() throws Exception {
        BlockingQueue<Event> heard = new LinkedBlockingQueue<>();
        brume.listen("progress", EventFilter.of(Event.Kind.PROGRESS), heard::add);
        brume.define(Job.named("buoys"), run -> {
            run.progress(40, "half the\nbuoys");
            go.await();
        });
        brume.start();

        long run = start("buoys");

        assertThat(next(heard).text()).isEqualTo("40% half the buoys");
        assertThat(brume.history().run(run).orElseThrow().progress().orElseThrow())
                .hasToString("40% half the buoys");
        go.countDown();
        assertThat(ended(run).progress()).isEmpty();
    }

    @Test
    void aTypedPayloadIsReadBeforeTheWorkAndOneThatCannotBeFailsForGood() throws Exception {
        PayloadType<Integer> cars = new PayloadType<>("cars-1", Integer::valueOf, String::valueOf);
        brume.handler("load", cars, (run, count) -> run.result("loaded " + (count + 1)));
        brume.define(Job.named("manifests")
                .handler("load")
                .payloadType("cars-1")
                .ifFailed(dev.brume.IfFailed.attempts(5, Duration.ZERO))
                .build());
        brume.start();

        long good = brume.orders("anna", "")
                .runNow(JobName.parse("manifests"), cars.text(16))
                .id();
        long bad = brume.orders("anna", "")
                .runNow(JobName.parse("manifests"), "sixteen")
                .id();

        assertThat(ended(good).result()).contains("loaded 17");
        RunView failed = ended(bad);
        assertThat(failed.outcome()).contains(Outcome.FAILED);
        assertThat(failed.reason()).contains(Reason.UNREADABLE_PAYLOAD.name());
        assertThat(failed.attempts()).hasSize(1);
        assertThat(failed.lastAttempt().orElseThrow().error().orElse(""))
                .contains("its payload cannot be read as cars-1");
    }

    @Test
    void anEventCarriesItsFactsBesideItsText() throws Exception {
        BlockingQueue<Event> heard = new LinkedBlockingQueue<>();
        brume.define(Job.named("buoys"), run -> {
            throw new IllegalStateException("silent");
        });
        brume.listen("facts", EventFilter.of(Event.Kind.STARTED, Event.Kind.FAILED), heard::add);
        brume.start();
        long run = start("buoys");

        Event started = next(heard);
        assertThat(started.run()).hasValue(run);
        assertThat(started.attempt()).hasValue(1);
        assertThat(started.outcome()).isEmpty();
        Event failed = next(heard);
        assertThat(failed.kind()).isEqualTo(Event.Kind.FAILED);
        assertThat(failed.attempt()).hasValue(1);
        assertThat(failed.outcome()).contains(Outcome.FAILED);
        assertThat(failed.reason()).contains(Reason.NO_ATTEMPT_LEFT);
        assertThat(failed.took()).isPresent();
        assertThat(failed.planned()).isEqualTo(started.planned()).isPresent();
    }

    @Test
    void aRunThatIsCancelledWhileItWaitsIsToldToo() throws Exception {
        BlockingQueue<Event> heard = new LinkedBlockingQueue<>();
        brume.define(Job.named("buoys"), run -> go.await());
        brume.listen("cancelled", EventFilter.of(Event.Kind.CANCELLED), heard::add);
        brume.start();
        start("buoys");
        long run = start("buoys");

        assertThat(brume.orders("anna", "").cancel(run)).isEqualTo(Cancelled.ENDED);

        Event cancelled = next(heard);
        assertThat(cancelled.job()).contains(JobName.parse("buoys"));
        assertThat(cancelled.run()).hasValue(run);
        assertThat(cancelled.outcome()).contains(Outcome.CANCELLED);
        assertThat(cancelled.reason()).contains(Reason.BY_HAND);
    }
}
