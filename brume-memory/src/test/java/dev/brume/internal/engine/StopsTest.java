package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.StopReason;
import dev.brume.StoreException;
import dev.brume.history.RunView;
import dev.brume.internal.event.Listeners;
import dev.brume.internal.work.ActiveAttempt;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import java.io.BufferedReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.Test;

/** No stop is lost, and none waits for ever. */
class StopsTest {
    private final MemoryStore store = new MemoryStore(Instant::now);

    private Brume.Builder office() {
        return Brume.on(store).instance("office").poll(Duration.ofMillis(50));
    }

    private static void await(CountDownLatch latch) throws InterruptedException {
        assertThat(latch.await(30, TimeUnit.SECONDS)).isTrue();
    }

    private static CompletableFuture<Void> beside(Runnable work) {
        return CompletableFuture.runAsync(work, task -> new Thread(task).start());
    }

    @Test
    void aStopThatComesBeforeTheWorkerHasBegunReachesIt() throws Exception {
        LeasedRun run = mock(LeasedRun.class);
        when(run.job()).thenReturn(Job.named("tides").handler("tides").build());
        ActiveAttempt attempt = new ActiveAttempt(run);
        attempt.cut(StopReason.LEASE_LOST);

        CompletableFuture<Boolean> interrupted = new CompletableFuture<>();
        Thread worker = new Thread(() -> {
            attempt.begin(Thread.currentThread());
            interrupted.complete(Thread.currentThread().isInterrupted());
        });
        worker.start();

        assertThat(interrupted.get(30, TimeUnit.SECONDS)).isTrue();
        assertThat(attempt.stopAsked()).contains(StopReason.LEASE_LOST);
    }

    @Test
    void whoWaitsForTheEndOfAnInstanceThatNeverStartedIsLetGo() throws Exception {
        Brume brume = office().build();
        CompletableFuture<Void> waiting = beside(() -> {
            try {
                brume.awaitStopped();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        });
        brume.close();

        waiting.get(30, TimeUnit.SECONDS);
    }

    @Test
    void aCloseThatIsInterruptedCanBeRepeatedAndLeavesNoSession() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch go = new CountDownLatch(1);
        Brume brume = office().drainLimit(Duration.ofMinutes(5)).build();
        brume.define(Job.named("tides"), run -> {
            begun.countDown();
            go.await();
        });
        brume.start();
        brume.orders("anna", "").runNow(JobName.parse("tides"));
        await(begun);

        Thread.currentThread().interrupt();
        brume.close();
        assertThat(Thread.interrupted()).isTrue();
        go.countDown();
        brume.close();

        assertThat(store.history().sessions(false)).isEmpty();
    }

    @Test
    void aCloseThatWaitsForRunsHeedsAnInterruptToo() throws Exception {
        CountDownLatch told = new CountDownLatch(1);
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch go = new CountDownLatch(1);
        Brume brume = office().drainLimit(Duration.ofMinutes(30)).build();
        brume.define(Job.named("tides"), run -> {
            begun.countDown();
            while (run.stopAsked().isEmpty()) {
                Thread.onSpinWait();
            }
            told.countDown();
            go.await();
        });
        brume.start();
        brume.orders("anna", "").runNow(JobName.parse("tides"));
        await(begun);
        Thread closer = new Thread(brume::close);
        closer.start();
        await(told);

        closer.interrupt();
        closer.join(60_000);
        assertThat(closer.isAlive()).isFalse();
        go.countDown();
        brume.close();
        assertThat(store.history().sessions(false)).isEmpty();
    }

    /** Who drains looks for no more work, which is no reason to give its session up. */
    @Test
    void runsThatTakeManyLeasesToDrainKeepTheirLease() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        Brume brume = office().lease(Duration.ofSeconds(2)).build();
        Set<Instant> renewals = ConcurrentHashMap.newKeySet();
        brume.define(Job.named("tides"), run -> {
            begun.countDown();
            while (run.stopAsked().isEmpty()) {
                Thread.onSpinWait();
            }
            while (renewals.size() < 10 && run.stopAsked().get() == StopReason.DRAINING) {
                store.history()
                        .sessions(false)
                        .forEach(each -> renewals.add(each.row().renewedAt()));
                if (store.history().sessions(false).isEmpty()) {
                    throw new IllegalStateException("the session is gone");
                }
            }
            run.result(run.stopAsked().get() + " after " + renewals.size());
        });
        brume.start();
        long run = brume.orders("anna", "").runNow(JobName.parse("tides")).id();
        await(begun);

        assertThat(brume.stop(Duration.ofSeconds(60))).isTrue();
        RunView ended = store.history().run(run).orElseThrow();
        assertThat(ended.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(ended.attempts()).hasSize(1);
        assertThat(ended.result()).contains("DRAINING after 10");
    }

    @Test
    void aListenerThatHangsKeepsNoStopWaiting() throws Exception {
        CountDownLatch hears = new CountDownLatch(1);
        CountDownLatch go = new CountDownLatch(1);
        Brume brume = office().build();
        brume.listen("slow", EventFilter.of(Event.Kind.JOINED), event -> {
            hears.countDown();
            boolean over = false;
            while (!over) {
                try {
                    go.await();
                    over = true;
                } catch (InterruptedException deaf) {
                    // As a listener may be.
                }
            }
        });
        brume.start();
        await(hears);

        assertThat(brume.stop(Duration.ofMillis(300))).isTrue();
        assertThat(go.getCount()).as("it hangs still").isEqualTo(1);
        go.countDown();
    }

    @Test
    void aTagFilterOutlivesAStoreThatDoesNotAnswerAndSeesTagsChange() throws Exception {
        AtomicReference<Optional<Set<String>>> tags = new AtomicReference<>(Optional.empty());
        Listeners listeners = new Listeners(
                event -> {},
                job -> tags.get()
                        .orElseThrow(() -> new StoreException(StoreException.Trouble.UNREACHABLE, "away", null)));
        BlockingQueue<String> heard = new LinkedBlockingQueue<>();
        listeners.add("nights", EventFilter.ALL.tag("night"), event -> heard.add(event.text()));

        listeners.saw(event("lost"));
        tags.set(Optional.of(Set.of("night")));
        awaitHeard(listeners, heard, "first");
        tags.set(Optional.of(Set.of("day")));
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        boolean silent = false;
        while (!silent) {
            assertThat(System.nanoTime() - until).as("still heard").isNegative();
            heard.clear();
            listeners.saw(event("second"));
            silent = heard.poll(300, TimeUnit.MILLISECONDS) == null;
        }
        tags.set(Optional.of(Set.of("night")));
        awaitHeard(listeners, heard, "third");
        listeners.close(Duration.ofSeconds(5));
    }

    private static Event event(String text) {
        return Event.of(Event.Kind.PLANNED, Instant.EPOCH, "office", text).withJob(JobName.parse("tides"));
    }

    private static void awaitHeard(Listeners listeners, BlockingQueue<String> heard, String text) throws Exception {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        String last = "";
        while (!text.equals(last)) {
            assertThat(System.nanoTime() - until).as("never heard %s", text).isNegative();
            listeners.saw(event(text));
            last = String.valueOf(heard.poll(300, TimeUnit.MILLISECONDS));
        }
    }

    /** An application that has something to do after the end. */
    static final class Application {
        private Application() {}

        public static void main(String[] args) throws Exception {
            Brume brume = Brume.on(new MemoryStore(Instant::now))
                    .instance("office")
                    .stopWithTheProcess()
                    .build();
            brume.start();
            System.out.println("started");
            brume.awaitStopped();
            System.out.println("put away");
        }
    }

    @Test
    void whatAnApplicationDoesAfterTheEndStillHappensWhenTheProcessIsToldToEnd() throws Exception {
        Process process = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        System.getProperty("java.class.path"),
                        Application.class.getName())
                .redirectErrorStream(true)
                .start();
        try (BufferedReader reader = process.inputReader(StandardCharsets.UTF_8)) {
            String line = reader.readLine();
            while (line != null && !line.equals("started")) {
                line = reader.readLine();
            }
            process.toHandle().destroy();
            assertThat(reader.lines()).contains("put away");
        } finally {
            process.destroyForcibly();
        }
    }
}
