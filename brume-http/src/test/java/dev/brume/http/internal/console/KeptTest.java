package dev.brume.http.internal.console;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;

/** What takes long is worked out by one, for all. */
class KeptTest {
    private final AtomicLong nanos = new AtomicLong();
    private final Deque<Runnable> behind = new ArrayDeque<>();
    private final Kept<String> kept = new Kept<>(nanos::get, 100, 1_000, behind::add);

    @Test
    void whoAsksWhenItIsNotFreshIsToldWhatWasKnownAndItIsWorkedOutBehindThem() {
        assertThat(kept.get(() -> "first")).isEqualTo("first");
        nanos.set(99);
        assertThat(kept.get(() -> "never")).isEqualTo("first");
        assertThat(behind).isEmpty();
        nanos.set(100);
        assertThat(kept.get(() -> "second")).isEqualTo("first");
        assertThat(kept.get(() -> "never")).isEqualTo("first");
        assertThat(behind).hasSize(1);
        behind.remove().run();
        assertThat(kept.get(() -> "never")).isEqualTo("second");
        nanos.set(100 + 1_000);
        assertThat(kept.get(() -> "third")).isEqualTo("third");
        assertThat(behind).isEmpty();
    }

    @Test
    void whatIsKnownIsToldWithoutWaiting() {
        assertThat(kept.known(() -> "first", 0)).isEmpty();
        assertThat(kept.known(() -> "never", 0)).isEmpty();
        assertThat(behind).hasSize(1);
        behind.remove().run();
        assertThat(kept.known(() -> "never", 0)).contains("first");
        nanos.set(100);
        assertThat(kept.known(() -> "second", 0)).contains("first");
        nanos.set(1_000);
        assertThat(kept.known(() -> "never", 0)).isEmpty();
        behind.remove().run();
        assertThat(kept.known(() -> "never", 0)).contains("second");
    }

    @Test
    void whereNothingIsKnownItIsWaitedFor() {
        Kept<String> own = new Kept<>(nanos::get, 100, 1_000, Runnable::run);
        assertThat(own.known(() -> "at once", 60_000)).contains("at once");
        Kept<String> sad = new Kept<>(nanos::get, 100, 1_000, Runnable::run);
        assertThat(sad.known(KeptTest::away, 60_000)).isEmpty();
    }

    @Test
    void ofSeveralWhoAskAtFirstOneWorksItOut() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch goOn = new CountDownLatch(1);
        CompletableFuture<String> slow = CompletableFuture.supplyAsync(() -> kept.get(() -> {
            begun.countDown();
            await(goOn);
            return "once";
        }));
        await(begun);
        CompletableFuture<String> waits = CompletableFuture.supplyAsync(() -> kept.get(() -> "never"));
        goOn.countDown();
        assertThat(slow.get(1, TimeUnit.MINUTES)).isEqualTo("once");
        assertThat(waits.get(1, TimeUnit.MINUTES)).isEqualTo("once");
    }

    private static void await(CountDownLatch latch) {
        try {
            assertThat(latch.await(1, TimeUnit.MINUTES)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void whatGoesWrongIsNotKept() {
        assertThatThrownBy(() -> kept.get(KeptTest::away)).hasMessage("the store is away");
        assertThat(kept.get(() -> "well")).isEqualTo("well");
        nanos.set(100);
        assertThat(kept.get(KeptTest::away)).isEqualTo("well");
        behind.remove().run();
        assertThat(kept.get(() -> "better")).isEqualTo("well");
        behind.remove().run();
        assertThat(kept.get(KeptTest::away)).isEqualTo("better");
    }

    private static String away() {
        throw new IllegalStateException("the store is away");
    }
}
