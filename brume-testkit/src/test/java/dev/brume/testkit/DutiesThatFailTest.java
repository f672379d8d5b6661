package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.StopReason;
import dev.brume.StoreException;
import dev.brume.history.ChangeFilter;
import dev.brume.history.RunFilter;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.Outlook;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What throws or hangs in a duty ends no thread, and costs an instance its lease rather than everybody their work. */
@Timeout(value = 60, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
class DutiesThatFailTest {
    private static final Duration LEASE = Duration.ofSeconds(2);

    private final MemoryStore memory = new MemoryStore(() -> Instant.now());
    private final Faults faults = new Faults(memory);
    private final BlockingQueue<Event> ofFirst = new LinkedBlockingQueue<>();
    private final BlockingQueue<Event> ofSecond = new LinkedBlockingQueue<>();
    private final Brume first = instance("quay-1", faults, ofFirst);
    private final Brume second = instance("quay-2", memory, ofSecond);

    private static Brume instance(String name, Store store, BlockingQueue<Event> events) {
        Brume brume = Brume.on(store)
                .instance(name)
                .lease(LEASE)
                .poll(Duration.ofMillis(50))
                .engineListener(events::add)
                .build();
        brume.handler("tides", run -> run.print("high water"));
        return brume;
    }

    /** What goes wrong in a duty, which is known by its thread. */
    private static final class Faults extends WrappedStore {
        private volatile String duty = "";
        private volatile Runnable fault = () -> {};
        private volatile Runnable faultAfterwards = () -> {};

        Faults(Store store) {
            super(store);
        }

        void in(String name, Runnable what) {
            fault = what;
            duty = name;
        }

        void in(String name, Runnable before, Runnable afterwards) {
            faultAfterwards = afterwards;
            in(name, before);
        }

        void over() {
            duty = "";
        }

        private void strike(Runnable what) {
            String name = duty;
            if (!name.isEmpty() && Thread.currentThread().getName().endsWith("-" + name)) {
                what.run();
            }
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            strike(fault);
            T result = super.transact(steps);
            strike(faultAfterwards);
            return result;
        }

        @Override
        public Outlook outlook(Look look) {
            strike(fault);
            return super.outlook(look);
        }
    }

    @AfterEach
    void stop() throws InterruptedException {
        faults.over();
        first.stop(Duration.ofSeconds(2));
        second.stop(Duration.ofSeconds(2));
    }

    private static Event await(BlockingQueue<Event> events, Event.Kind kind) throws InterruptedException {
        List<Event> seen = new ArrayList<>();
        for (Event event = events.poll(20, TimeUnit.SECONDS);
                event != null;
                event = events.poll(20, TimeUnit.SECONDS)) {
            if (event.kind() == kind) {
                return event;
            }
            seen.add(event);
        }
        throw new AssertionError("no " + kind + " came, but " + seen);
    }

    /** The ends of a job that another follows are always settled. */
    private void define() {
        first.define(Job.named("charts").handler("tides").build());
        first.define(Job.named("tides")
                .every(Duration.ofSeconds(1))
                .handler("tides")
                .ifBusy(IfBusy.alongside(8))
                .followUp(FollowUp.On.FAILURE, "charts")
                .build());
    }

    @ParameterizedTest
    @ValueSource(strings = {"keep", "round", "finish", "settle"})
    void anErrorInADutyEndsNoThread(String duty) throws Exception {
        define();
        CountDownLatch struck = new CountDownLatch(1);
        first.start();
        await(ofFirst, Event.Kind.SUCCEEDED);
        faults.in(duty, () -> {
            struck.countDown();
            throw new OutOfMemoryError("unable to create native thread");
        });
        assertThat(struck.await(20, TimeUnit.SECONDS)).isTrue();
        faults.over();
        ofFirst.clear();

        await(ofFirst, Event.Kind.SUCCEEDED);
    }

    @Test
    void anEndThatIsReportedAloneAndWhoseAnswerIsLostIsOnRecordOnce() throws Exception {
        first.define(Job.named("tides").handler("tides").build());
        AtomicInteger calls = new AtomicInteger();
        faults.in(
                "finish",
                () -> {
                    if (calls.incrementAndGet() == 1) {
                        throw new StoreException(StoreException.Trouble.OTHER, "a value that is too long", null);
                    }
                },
                () -> {
                    if (calls.get() == 2) {
                        throw new StoreException(StoreException.Trouble.COMMIT_UNCLEAR, "the connection broke", null);
                    }
                });
        first.start();
        first.orders("ines", "high water").runNow(JobName.parse("tides"));

        await(ofFirst, Event.Kind.SUCCEEDED);
        assertThat(calls.get()).as("refused, lost, found on record").isEqualTo(3);
        assertThat(first.history().runs(RunFilter.newest(5))).singleElement().satisfies(run -> {
            assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
            assertThat(run.attempts()).hasSize(1);
        });
        assertThat(ofFirst).noneMatch(event -> event.kind() == Event.Kind.REFUSED);
    }

    /** Others come only once it is stuck: until then one of them might have the job's share, and nothing be left to report or to settle. */
    @ParameterizedTest
    @ValueSource(strings = {"round", "finish", "settle"})
    void aDutyThatDoesNotTurnForALeaseCostsItSoThatOthersTakeOver(String duty) throws Exception {
        define();
        first.start();
        await(ofFirst, Event.Kind.SUCCEEDED);
        faults.in(duty, () -> {
            throw new NoClassDefFoundError("dev/harbour/Tides");
        });
        Event lost = await(ofFirst, Event.Kind.LEASE_LOST);
        second.start();
        assertThat(lost.text()).contains("has not finished a turn for a whole lease", "dev/harbour/Tides");
        assertThat(memory.history().changes(ChangeFilter.newest(100)))
                .as("visible from anywhere")
                .anySatisfy(change -> {
                    assertThat(change.change().kind()).isEqualTo("GAVE_UP");
                    assertThat(change.change().who()).isEqualTo("quay-1");
                });
        await(ofSecond, Event.Kind.SUCCEEDED);
        awaitTakenOver();

        faults.over();
        ofFirst.clear();
        await(ofFirst, Event.Kind.JOINED);
    }

    @Test
    void aRoundThatHangsCostsTheLeaseAndJoinsAgainWhenItGoesOn() throws Exception {
        define();
        CountDownLatch hangs = new CountDownLatch(1);
        CountDownLatch until = new CountDownLatch(1);
        first.start();
        await(ofFirst, Event.Kind.SUCCEEDED);
        faults.in("round", () -> {
            hangs.countDown();
            awaitUninterruptibly(until);
        });
        hangs.await();
        second.start();

        assertThat(await(ofFirst, Event.Kind.LEASE_LOST).text()).contains("looking for work", "it hangs");
        await(ofSecond, Event.Kind.SUCCEEDED);
        awaitTakenOver();
        faults.over();
        until.countDown();
        await(ofFirst, Event.Kind.JOINED);
    }

    /** Until then the session could still be renewed, late as it is. */
    private void awaitTakenOver() {
        while (memory.history().sessions(false).stream()
                .anyMatch(session -> session.row().instance().equals("quay-1"))) {
            Thread.onSpinWait();
        }
    }

    private static void awaitUninterruptibly(CountDownLatch latch) {
        try {
            latch.await();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void runsAreToldBeforeTheirLeaseEndsThoughTheRenewalHangs() throws Exception {
        AtomicReference<StopReason> told = new AtomicReference<>();
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch ended = new CountDownLatch(1);
        CountDownLatch until = new CountDownLatch(1);
        first.handler("tides", run -> {
            begun.countDown();
            try {
                new CountDownLatch(1).await();
            } finally {
                told.set(run.stopAsked().orElse(null));
                ended.countDown();
            }
        });
        define();
        first.start();
        begun.await();
        faults.in("keep", () -> awaitUninterruptibly(until));

        assertThat(ended.await(20, TimeUnit.SECONDS)).isTrue();
        assertThat(told.get()).isEqualTo(StopReason.LEASE_LOST);
        faults.over();
        until.countDown();
    }

    @Test
    void anInterruptedCloseRenewsNoMoreAndCanBeDoneAgain() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch enough = new CountDownLatch(1);
        first.handler("tides", run -> {
            begun.countDown();
            enough.await();
        });
        define();
        first.start();
        begun.await();

        Thread.currentThread().interrupt();
        first.close();
        assertThat(Thread.interrupted()).as("the caller stays interrupted").isTrue();
        Instant renewed = memory.history().sessions(true).get(0).row().renewedAt();
        enough.countDown();
        first.close();

        assertThat(memory.history().sessions(false)).isEmpty();
        assertThat(memory.history().sessions(true).get(0).row().renewedAt()).isEqualTo(renewed);
    }

    @Test
    void oneThatWasNeverStartedStopsToo() throws Exception {
        first.close();
        first.awaitStopped();
    }
}
