package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StoreException;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.health.InstanceHealth;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.Outlook;
import dev.brume.spi.TimeSource;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Function;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

class InstanceHealthTest {
    private final LinkedBlockingQueue<Event> events = new LinkedBlockingQueue<>();
    private final Cuttable store = new Cuttable();
    private final Watch watch = new Watch();
    private final Brume brume = Brume.on(store)
            .instance("quay-1")
            .lane("main", 1)
            .poll(Duration.ofMillis(50))
            .time(watch)
            .withoutLog()
            .build();

    /** Goes on as the machine's does, and can be put forward. */
    private static final class Watch implements TimeSource {
        private final AtomicLong ahead = new AtomicLong();

        @Override
        public long nanos() {
            return System.nanoTime() + ahead.get();
        }

        @Override
        public Instant wall() {
            return Instant.now();
        }
    }

    private static final class Cuttable extends WrappedStore {
        private volatile boolean cut;
        private final CountDownLatch hanging = new CountDownLatch(1);
        private volatile boolean hangs;

        Cuttable() {
            super(new MemoryStore());
        }

        private void check() {
            if (cut) {
                throw new StoreException(StoreException.Trouble.UNREACHABLE, "the cable is cut", null);
            }
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            check();
            return super.transact(steps);
        }

        @Override
        public Outlook outlook(Look look) {
            check();
            if (hangs) {
                try {
                    hanging.await();
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            }
            return super.outlook(look);
        }
    }

    @AfterEach
    void close() {
        store.cut = false;
        store.hanging.countDown();
        brume.close();
    }

    private void await(Event.Kind kind) throws InterruptedException {
        Event next;
        do {
            next = events.poll(60, TimeUnit.SECONDS);
            assertThat(next).as("an event " + kind).isNotNull();
        } while (next.kind() != kind);
    }

    private List<String> findings() {
        return InstanceHealth.ready(brume).findings().stream()
                .map(Finding::text)
                .toList();
    }

    @Test
    void anInstanceIsReadyWhileItTakesWork() throws Exception {
        brume.listen("test", EventFilter.ALL, events::add);
        assertThat(InstanceHealth.ready(brume)).isEqualTo(new InstanceHealth(/* well= */ true, List.of()));
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch letGo = new CountDownLatch(1);
        brume.define(Job.named("dues"), run -> {
            begun.countDown();
            letGo.await();
        });
        brume.start();
        await(Event.Kind.JOINED);
        assertThat(InstanceHealth.ready(brume).well()).isTrue();

        brume.orders("anna", "").runNow(JobName.parse("dues"));
        assertThat(begun.await(60, TimeUnit.SECONDS)).isTrue();
        assertThat(findings()).containsExactly("all of its workers are busy");
        assertThat(InstanceHealth.ready(brume).well()).isTrue();
        assertThat(Checkup.of(brume).look().alive()).isEqualTo(1);

        brume.drain("quay-1");
        await(Event.Kind.DRAINING);
        assertThat(findings()).containsExactly("takes no more work; 1 of its runs go on");
        assertThat(InstanceHealth.ready(brume).well()).isFalse();
        assertThat(InstanceHealth.live(brume).well()).isTrue();
        letGo.countDown();
        brume.awaitStopped();
        assertThat(findings()).containsExactly("has stopped");
    }

    @Test
    void aDatabaseThatIsAwayIsNoReasonToRestart() throws Exception {
        brume.listen("test", EventFilter.ALL, events::add);
        brume.start();
        await(Event.Kind.JOINED);
        store.cut = true;
        await(Event.Kind.PROBLEM);

        assertThat(InstanceHealth.ready(brume).well()).isFalse();
        assertThat(findings().get(0)).startsWith("its database has not answered for");
        assertThat(InstanceHealth.live(brume).well()).isTrue();
    }

    @Test
    void aDutyThatHangsIsOne() throws Exception {
        brume.listen("test", EventFilter.ALL, events::add);
        brume.start();
        await(Event.Kind.JOINED);
        store.hangs = true;
        brume.define(Job.named("dues"), run -> {});
        brume.orders("anna", "").runNow(JobName.parse("dues"));
        watch.ahead.addAndGet(Duration.ofMinutes(5).toNanos());

        assertThat(InstanceHealth.live(brume).well()).isFalse();
        assertThat(InstanceHealth.live(brume).findings())
                .extracting(Finding::advice)
                .allSatisfy(advice -> assertThat(advice).startsWith("restart the process"));
    }
}
