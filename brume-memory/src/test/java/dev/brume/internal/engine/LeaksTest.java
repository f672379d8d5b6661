package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Run;
import dev.brume.memory.MemoryStore;
import java.lang.ref.Reference;
import java.lang.ref.ReferenceQueue;
import java.lang.ref.WeakReference;
import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

/** What is over is let go: whoever holds on to it is found by what the collector cannot take. */
class LeaksTest {
    private static final JobName TIDES = JobName.parse("tides");

    private final MemoryStore store = new MemoryStore(Instant::now);
    private final BlockingQueue<Event> ends = new LinkedBlockingQueue<>();

    private Brume.Builder office() {
        return Brume.on(store).instance("office").poll(Duration.ofMillis(50)).engineListener(event -> {
            if (event.kind() == Event.Kind.SUCCEEDED) {
                ends.add(event);
            }
        });
    }

    private void runOnce(Brume brume) throws InterruptedException {
        brume.orders("ines", "a look at the tide").runNow(TIDES);
        assertThat(ends.poll(30, TimeUnit.SECONDS)).isNotNull();
    }

    private static <T> void isLetGo(WeakReference<T> made, ReferenceQueue<T> queue) throws Exception {
        Reference<? extends T> gone = null;
        for (int i = 0; i < 100 && gone == null; i++) {
            System.gc();
            gone = queue.remove(100);
        }
        assertThat(gone).as("what was let go of %s", made).isNotNull();
    }

    /** In a frame of its own, so that no local variable holds on to it. */
    private WeakReference<Brume> startedAndClosed(ReferenceQueue<Brume> queue) {
        Brume brume = office().stopWithTheProcess().build();
        brume.handler("tides", run -> run.print("high water"));
        brume.define(Job.named("tides")
                .handler("tides")
                .timeLimit(Duration.ofDays(1))
                .build());
        brume.start();
        try {
            runOnce(brume);
        } catch (InterruptedException e) {
            throw new AssertionError(e);
        }
        brume.close();
        return new WeakReference<>(brume, queue);
    }

    @Test
    void aClosedInstanceLeavesNothingBehind() throws Exception {
        ReferenceQueue<Brume> queue = new ReferenceQueue<>();
        isLetGo(startedAndClosed(queue), queue);
    }

    @Test
    void aRunThatEndsLongBeforeItsTimeLimitIsLetGo() throws Exception {
        ReferenceQueue<Run> queue = new ReferenceQueue<>();
        BlockingQueue<WeakReference<Run>> seen = new LinkedBlockingQueue<>();
        try (Brume brume = office().workers(1).build()) {
            brume.handler("tides", run -> seen.add(new WeakReference<>(run, queue)));
            brume.define(Job.named("tides")
                    .handler("tides")
                    .timeLimit(Duration.ofDays(1))
                    .build());
            brume.start();
            runOnce(brume);
            runOnce(brume);
            isLetGo(seen.remove(), queue);
        }
    }
}
