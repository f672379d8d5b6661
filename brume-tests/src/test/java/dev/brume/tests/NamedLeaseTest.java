package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.LeaseLostException;
import dev.brume.NamedLease;
import dev.brume.history.NamedLeaseRow;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Leases by name, on every database. */
class NamedLeaseTest {
    private static final Duration MINUTE = Duration.ofMinutes(1);

    @ParameterizedTest
    @EnumSource
    void ofManyWhoAskAtOnceOneGetsItAndTheNextOneHasAHigherFence(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume one = Brume.on(fresh.store()).instance("quay-1").build();
                Brume two = Brume.on(fresh.store()).instance("quay-2").build()) {
            ExecutorService askers = Executors.newFixedThreadPool(8);
            List<Callable<Optional<NamedLease>>> asking = IntStream.range(0, 8)
                    .<Callable<Optional<NamedLease>>>mapToObj(
                            i -> () -> (i % 2 == 0 ? one : two).takeLease("dues-export", MINUTE))
                    .toList();
            List<NamedLease> taken = new ArrayList<>();
            for (Future<Optional<NamedLease>> each : askers.invokeAll(asking)) {
                each.get().ifPresent(taken::add);
            }
            askers.shutdown();

            assertThat(taken).hasSize(1);
            assertThat(taken.get(0).isHeld()).isTrue();
            assertThat(one.takeLease("lamps", MINUTE)).isPresent();
            taken.get(0).close();
            assertThat(taken.get(0).isHeld()).isFalse();
            NamedLease next = two.takeLease("dues-export", MINUTE).orElseThrow();
            assertThat(next.fence()).isGreaterThan(taken.get(0).fence());
            taken.get(0).close();
            assertThat(one.takeLease("dues-export", MINUTE))
                    .as("closed by its old holder again")
                    .isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource
    void afterItWasGivenBackItCoolsDown(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("quay-1").build()) {
            brume.takeLease("dues-export", MINUTE, MINUTE).orElseThrow().close();

            assertThat(brume.takeLease("dues-export", MINUTE)).isEmpty();
            NamedLeaseRow row = brume.history().leases().get(0);
            Instant now = brume.history().now();
            assertThat(row.state(now)).isEqualTo(NamedLeaseRow.State.COOLING);
            assertThat(row.holder()).isEqualTo("quay-1");
            assertThat(Duration.between(row.until(), row.freeAt())).isEqualTo(MINUTE);
            for (String none : List.of(" ", "ferry/", "a/b/c")) {
                assertThatThrownBy(() -> brume.takeLease(none, MINUTE))
                        .hasMessageContaining("'" + none + "' is not a name");
            }
            brume.takeLease("main/dues", MINUTE).orElseThrow();
            assertThat(brume.takeLease("dues", MINUTE)).as("the same").isEmpty();
            assertThat(brume.takeLease("ferry/dues", MINUTE)).isPresent();
            assertThat(brume.takeLease("/dues", MINUTE)).isPresent();
            assertThat(brume.takeLease("n".repeat(100) + "/" + "d".repeat(100), MINUTE))
                    .as("as long as names can be")
                    .isPresent();
            assertThatThrownBy(() -> brume.takeLease("x", Duration.ofMillis(10)))
                    .hasMessageContaining("is outside 1s to 1d");
        }
    }

    @ParameterizedTest
    @EnumSource
    void whoLostItIsToldAndRefusedInTheDatabaseToo(Db db) throws Exception {
        BlockingQueue<Event> lost = new LinkedBlockingQueue<>();
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store())
                        .instance("quay-1")
                        .engineListener(lost::add)
                        .build();
                NamedLease lease =
                        brume.takeLease("dues-export", Duration.ofSeconds(4)).orElseThrow();
                Connection connection = fresh.connection()) {
            connection.setAutoCommit(false);
            lease.check(connection);
            connection.rollback();
            Instant first = brume.history().leases().get(0).renewedAt();
            while (!brume.history().leases().get(0).renewedAt().isAfter(first)) {
                Thread.onSpinWait();
            }

            fresh.sql("update " + fresh.table("brume_named_lease") + " set fence = fence + 1");

            Event told = lost.poll(30, TimeUnit.SECONDS);
            assertThat(told).isNotNull();
            assertThat(told.kind()).isEqualTo(Event.Kind.LEASE_LOST);
            assertThat(lease.isHeld()).isFalse();
            assertThatThrownBy(() -> lease.check(connection)).isInstanceOf(LeaseLostException.class);
        }
    }
}
