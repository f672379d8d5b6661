package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.AttemptEnd;
import dev.brume.history.RunRow;
import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

/** What a store does with requests that carry a key. */
abstract class RequestContract extends ErasureContract {
    private static final RequestKey KEY = new RequestKey("anna", "harbour", "run-now", "2026-11-23/naïve 🌫");

    private Optional<RequestRow> begin(RequestKey key, String digest) {
        return store.transact(tx -> tx.requests().begin(key, digest));
    }

    private void done(RequestKey key, String answer, Optional<Long> run) {
        store.transact(tx -> {
            assertThat(tx.requests().begin(key, "digest")).isPresent();
            tx.requests().done(key, answer, run);
            return null;
        });
    }

    private int forget(Instant before, int limit) {
        return store.transact(tx -> tx.requests().forget(before, limit));
    }

    @Test
    void aRequestIsHeardOnceAndItsAnswerIsKept() {
        assertThat(begin(KEY, "digest")).isEmpty();
        RequestRow begun = begin(KEY, "other").orElseThrow();
        assertThat(begun.digest()).as("of the first").isEqualTo("digest");
        assertThat(begun.answer()).as("to be gone on with").isEmpty();
        done(KEY, "run 77 🌫", Optional.of(77L));

        assertThat(begin(KEY, "digest"))
                .contains(new RequestRow(KEY, "digest", begun.begunAt(), Optional.of("run 77 🌫"), Optional.of(77L)));
        assertThat(begin(new RequestKey("anna", "harbour", "run-now", "another"), "digest"))
                .isEmpty();
        assertThat(begin(new RequestKey("anna", "harbour", "cancel", KEY.key()), "digest"))
                .isEmpty();
        assertThat(begin(new RequestKey("anna", "office", "run-now", KEY.key()), "digest"))
                .isEmpty();
        assertThat(begin(new RequestKey("Anna", "harbour", "run-now", KEY.key()), "digest"))
                .isEmpty();
    }

    @Test
    void aRequestOfATransactionThatRollsBackWasNeverHeard() {
        assertThatThrownBy(() -> store.transact(tx -> {
                    tx.requests().begin(KEY, "digest");
                    throw new IllegalStateException("the order was refused");
                }))
                .isInstanceOf(IllegalStateException.class);

        assertThat(begin(KEY, "digest")).isEmpty();
    }

    @Test
    void theSameRequestAtTheSameTimeIsDoneOnce() throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        CompletableFuture<Optional<RequestRow>> second = CompletableFuture.supplyAsync(() -> {
            try {
                assertThat(begun.await(20, TimeUnit.SECONDS)).isTrue();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
            return begin(KEY, "digest");
        });
        store.transact(tx -> {
            assertThat(tx.requests().begin(KEY, "digest")).isEmpty();
            begun.countDown();
            tx.requests().done(KEY, "run 78", Optional.of(78L));
            return null;
        });

        assertThat(second.get(20, TimeUnit.SECONDS)).map(RequestRow::answer).contains(Optional.of("run 78"));
    }

    @Test
    void aRequestStaysAsLongAsItsRunIsOnRecord() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        RequestKey old = new RequestKey("anna", "harbour", "run-now", "old");
        begin(KEY, "digest");
        done(KEY, "run", Optional.of(run.id()));
        begin(old, "digest");
        Instant later = now().plusSeconds(60);

        assertThat(forget(now().minusSeconds(60), 10)).as("too young").isZero();
        assertThat(forget(later, 10)).as("the one without a run").isEqualTo(1);
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));
        assertThat(forget(later, 10)).as("its run has ended, and is on record").isZero();
        assertThat(begin(KEY, "digest")).isPresent();
        store.transact(tx -> tx.retention().remove(Optional.empty(), now(), 10));
        assertThat(forget(later, 10)).isEqualTo(1);
        assertThat(begin(KEY, "digest")).isEmpty();
    }
}
