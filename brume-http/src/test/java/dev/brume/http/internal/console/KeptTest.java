package dev.brume.http.internal.console;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;

/** What takes long is worked out by one, for all. */
class KeptTest {
    private final AtomicLong nanos = new AtomicLong();
    private final Kept<String> kept = new Kept<>(nanos::get, 100);

    @Test
    void itIsWorkedOutAgainWhenItIsNotFresh() {
        assertThat(kept.get(() -> "first")).isEqualTo("first");
        nanos.set(99);
        assertThat(kept.get(() -> "second")).isEqualTo("first");
        nanos.set(100);
        assertThat(kept.get(() -> "third")).isEqualTo("third");
    }

    @Test
    void whoAsksMeanwhileIsToldWhatWasKnown() throws Exception {
        kept.get(() -> "before");
        nanos.set(100);
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch goOn = new CountDownLatch(1);
        CompletableFuture<String> slow = CompletableFuture.supplyAsync(() -> kept.get(() -> {
            begun.countDown();
            await(goOn);
            return "after";
        }));
        await(begun);
        assertThat(kept.get(() -> "never")).isEqualTo("before");
        goOn.countDown();
        assertThat(slow.get(1, TimeUnit.MINUTES)).isEqualTo("after");
        assertThat(kept.get(() -> "never")).isEqualTo("after");
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
        assertThatThrownBy(() -> kept.get(() -> {
                    throw new IllegalStateException("the store is away");
                }))
                .hasMessage("the store is away");
        assertThat(kept.get(() -> "well")).isEqualTo("well");
    }
}
