package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Handler;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.history.Output;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.work.OutputBuffer;
import dev.brume.memory.MemoryStore;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Real threads and real programs on the store in memory. */
class EngineTest {
    private static final Instant DAWN = Instant.parse("2026-05-04T06:00:00Z");

    /** The store's clock stands still until a test lets time run, so no machine is too slow for it. */
    private volatile long startedAt = -1;

    private final MemoryStore store = new MemoryStore(this::now);
    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
    private final Brume brume = Brume.on(store)
            .takesPrograms()
            .instance("quay-1")
            .workers(4)
            .poll(Duration.ofMillis(50))
            .engineListener(events::add)
            .build();

    @TempDir
    private Path folder;

    @AfterEach
    void stop() throws InterruptedException {
        brume.stop(Duration.ofSeconds(5));
    }

    private Instant now() {
        return startedAt < 0 ? DAWN : DAWN.plusNanos(System.nanoTime() - startedAt);
    }

    private void begin() {
        startedAt = System.nanoTime();
        brume.start();
    }

    private static Job.Builder soon(String name) {
        return Job.named(name).once(DAWN.plusMillis(100));
    }

    private Event await(Event.Kind kind) throws InterruptedException {
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

    private RunView only() {
        List<RunView> runs = store.history().runs(RunFilter.newest(10));
        assertThat(runs).hasSize(1);
        return runs.get(0);
    }

    private RunView runToEnd(Job job, Event.Kind end) throws InterruptedException {
        brume.define(job);
        begin();
        await(end);
        return only();
    }

    private static Job.Builder shell(String script) {
        return soon("tides").program("sh", "-c", script);
    }

    @Test
    void aHandlerSeesItsRunAndLeavesOutputAndResult() throws InterruptedException {
        AtomicReference<JobName> seen = new AtomicReference<>();
        brume.define(soon("tides").payload("{\"quay\":4}"), run -> {
            seen.set(run.job());
            run.print("payload " + run.payload().orElseThrow() + ", attempt " + run.attempt());
            run.result("3.1 m");
        });
        begin();
        await(Event.Kind.SUCCEEDED);

        RunView run = only();
        assertThat(seen.get()).isEqualTo(new JobName("main", "tides"));
        assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(run.result()).contains("3.1 m");
        assertThat(run.outputs().get(1).text()).isEqualTo("payload {\"quay\":4}, attempt 1\n");
    }

    @Test
    void whatAHandlerThrowsIsInTheLedgerWithoutTheEnginesOwnFrames() throws InterruptedException {
        Handler broken = run -> {
            throw new IllegalStateException("the tide is out");
        };
        brume.define(soon("tides").ifFailed(IfFailed.attempts(2, Duration.ofMillis(10))), broken);
        begin();
        await(Event.Kind.FAILED);

        RunView run = only();
        assertThat(run.attempts()).hasSize(2);
        assertThat(run.lastAttempt().orElseThrow().error().orElseThrow())
                .startsWith("java.lang.IllegalStateException: the tide is out")
                .contains("EngineTest")
                .doesNotContain("Workers");
    }

    @Test
    void aHandlerThatOutrunsItsLimitIsInterrupted() throws InterruptedException {
        CountDownLatch never = new CountDownLatch(1);
        brume.define(soon("tides").timeLimit(Duration.ofMillis(100)), run -> never.await());
        begin();
        await(Event.Kind.FAILED);

        assertThat(only().outcome()).contains(Outcome.TIMED_OUT);
    }

    @Test
    void aProgramGetsTheRunsFactsAndItsOutputIsKept() throws InterruptedException {
        Work work = new Work.Program(
                List.of("sh", "-c", "echo $GREETING $BRUME_JOB $BRUME_ATTEMPT; pwd; echo oops >&2"),
                Map.of("GREETING", "ahoy"),
                Optional.of(folder.toString()));
        RunView run = runToEnd(soon("tides").work(work).build(), Event.Kind.SUCCEEDED);

        assertThat(run.outputs().get(1).text())
                .contains("ahoy tides 1")
                .contains(folder.getFileName().toString())
                .contains("oops");
    }

    @Test
    void aProgramThatIsNotThereIsSaidToBeMissing() throws InterruptedException {
        RunView run = runToEnd(soon("tides").program("./no-such-program").build(), Event.Kind.FAILED);

        assertThat(run.lastAttempt().orElseThrow().error().orElseThrow())
                .contains("program './no-such-program' not found")
                .contains("in folder ");
    }

    @Test
    void aProgramIsEndedAtItsLimitWithEverythingItStarted() throws Exception {
        RunView run = runToEnd(
                shell("sleep 600 & echo $!; wait")
                        .timeLimit(Duration.ofMillis(300))
                        .build(),
                Event.Kind.FAILED);

        assertThat(run.outcome()).contains(Outcome.TIMED_OUT);
        long child = Long.parseLong(run.outputs().get(1).text().strip());
        Optional<ProcessHandle> handle = ProcessHandle.of(child);
        if (handle.isPresent()) {
            handle.get().onExit().get(10, TimeUnit.SECONDS);
        }
    }

    @Test
    void aProgramThatMakesAnOrderlyEndAtItsLimitHasOutrunItAllTheSame() throws Exception {
        RunView run = runToEnd(
                shell("trap 'exit 0' TERM; sleep 600 & wait")
                        .timeLimit(Duration.ofMillis(300))
                        .build(),
                Event.Kind.FAILED);

        assertThat(run.outcome()).contains(Outcome.TIMED_OUT);
        assertThat(run.lastAttempt().orElseThrow().error())
                .hasValueSatisfying(error -> assertThat(error).startsWith("stopped at its time limit"));
    }

    @Test
    void outputBeyondItsBoundIsCountedAndLeftOutAndBadBytesAreReplaced() throws InterruptedException {
        RunView run = runToEnd(
                shell("printf 'first \\377\\000 '; head -c 50000000 /dev/zero | tr '\\0' x; echo last")
                        .build(),
                Event.Kind.SUCCEEDED);

        Output output = run.outputs().get(1);
        assertThat(output.bytes()).isEqualTo(50_000_000 + 14);
        assertThat(output.omitted()).isEqualTo(output.bytes() - OutputBuffer.HEAD - OutputBuffer.TAIL);
        assertThat(output.text())
                .startsWith("first \uFFFD\uFFFD xxx")
                .endsWith("xlast\n")
                .contains("bytes left out");
        assertThat(output.text().length()).isLessThan(OutputBuffer.HEAD + OutputBuffer.TAIL + 100);
    }

    @Test
    void stoppingTellsTheRunsAndWaitsForThem() throws InterruptedException {
        CountDownLatch begun = new CountDownLatch(1);
        brume.define(soon("tides"), run -> {
            begun.countDown();
            while (run.stopAsked().isEmpty()) {
                Thread.onSpinWait();
            }
            run.result(run.stopAsked().orElseThrow().name());
        });
        begin();
        begun.await();

        assertThat(brume.stop(Duration.ofSeconds(10))).isTrue();
        assertThat(only().outcome()).contains(Outcome.SUCCEEDED);
        assertThat(only().result()).contains(StopReason.DRAINING.name());
        assertThat(store.history().sessions(false)).isEmpty();
    }

    @Test
    void whatDoesNotEndInTimeIsHandedBackToRunElsewhereAtOnce() throws InterruptedException {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch never = new CountDownLatch(1);
        brume.define(soon("tides"), run -> {
            begun.countDown();
            never.await();
        });
        begin();
        begun.await();

        assertThat(brume.stop(Duration.ofMillis(50))).isFalse();
        RunView run = only();
        assertThat(run.state()).contains(RunState.PLANNED);
        assertThat(run.attempts())
                .singleElement()
                .satisfies(attempt -> assertThat(attempt.end()).contains(AttemptEnd.HANDED_BACK));
        assertThat(run.readyAt()).isBeforeOrEqualTo(store.history().now());
    }

    @Test
    void aWatcherThatThrowsChangesNothing() throws InterruptedException {
        MemoryStore own = new MemoryStore(this::now);
        CountDownLatch ran = new CountDownLatch(1);
        try (Brume other = Brume.on(own)
                .takesPrograms()
                .instance("quay-2")
                .engineListener(event -> {
                    throw new IllegalStateException("watchers may be broken");
                })
                .build()) {
            other.define(soon("tides"), run -> ran.countDown());
            startedAt = System.nanoTime();
            other.start();
            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
        }
        assertThat(own.history().runs(RunFilter.newest(1)).get(0).outcome()).contains(Outcome.SUCCEEDED);
    }
}
