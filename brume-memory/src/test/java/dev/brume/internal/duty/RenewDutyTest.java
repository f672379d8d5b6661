package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;

import dev.brume.Event;
import dev.brume.GuardedWork;
import dev.brume.Job;
import dev.brume.OwnTransaction;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.internal.session.RenewDuty;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Outlook;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import dev.brume.spi.WorkerPool;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The session under trouble, with a clock moved by hand and a store that can be unplugged. */
class RenewDutyTest {
    private static final Instant BEGIN = HandClock.BEGIN;
    private static final Duration LEASE = Duration.ofSeconds(15);

    private final HandClock clock = new HandClock();
    private final MemoryStore memory = new MemoryStore(clock::wall);
    private final PluggedStore store = new PluggedStore(memory);
    private final WorkerPool workers = mock(WorkerPool.class);
    private final List<Event> events = new ArrayList<>();
    private Instance instance;
    private RenewDuty keep;

    private static final class PluggedStore implements Store {
        private final Store store;
        private boolean unplugged;

        PluggedStore(Store store) {
            this.store = store;
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            if (unplugged) {
                throw new StoreException(StoreException.Trouble.UNREACHABLE, "unplugged", null);
            }
            return store.transact(steps);
        }

        @Override
        public <T> T join(Connection connection, Function<Transaction, T> steps) {
            return store.join(connection, steps);
        }

        @Override
        public void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) throws Exception {
            store.guarded(lease, limit, work, end);
        }

        @Override
        public void guarded(LeaseKey lease, Duration limit, OwnTransaction own, GuardedWork work, Supplier<RunEnd> end)
                throws Exception {
            store.guarded(lease, limit, own, work, end);
        }

        @Override
        public Outlook outlook(Look look) {
            return store.outlook(look);
        }

        @Override
        public History history() {
            return store.history();
        }

        @Override
        public void prepare() {
            store.prepare();
        }

        @Override
        public String description() {
            return store.description();
        }

        @Override
        public void close() {
            store.close();
        }
    }

    @BeforeEach
    void openSession() {
        Settings settings = new Settings("quay-1", "host", 1, Map.of("main", 2), LEASE, Duration.ofSeconds(1), 10);
        instance = new Instance(settings, store, clock, events::add);
        instance.workers(workers);
        keep = new RenewDuty(instance, UUID::randomUUID);
        assertThat(keep.step()).isEqualTo(Duration.ofSeconds(5));
    }

    private LeasedRun holdRun() {
        RunRow.Lease lease = new RunRow.Lease(instance.sessionId().orElseThrow(), 1, BEGIN);
        RunRow.Owed owed = RunRow.Owed.scheduled(1, BEGIN, ZoneOffset.UTC);
        RunRow row = RunRow.planned(1, owed).moved(RunState.RUNNING, BEGIN, Optional.of(lease), List.of(), 1);
        LeasedRun run = new LeasedRun(row, Job.named("x").program("true").build(), "quay-1", 0);
        instance.hold(run);
        return run;
    }

    private SessionRow session() {
        return memory.history().sessions(true).get(0).row();
    }

    @Test
    void aThirdOfTheLeaseLaterItIsRenewed() {
        clock.forward(Duration.ofSeconds(5));
        keep.step();

        assertThat(session().leaseUntil()).isEqualTo(BEGIN.plusSeconds(20));
        assertThat(instance.liveSession()).isPresent();
    }

    @Test
    void runsAreToldWhileTheLeaseStillHoldsAndOnlyOnce() {
        LeasedRun run = holdRun();
        store.unplugged = true;
        clock.forward(Duration.ofSeconds(10));
        keep.step();
        verify(workers, never()).stop(any(), any());
        assertThat(instance.liveSession()).isPresent();

        clock.forward(Duration.ofSeconds(3));
        keep.step();
        keep.step();
        verify(workers, times(1)).stop(eq(run), eq(StopReason.LEASE_LOST));
        assertThat(instance.liveSession()).as("takes no more work").isEmpty();
        assertThat(clock.wall()).as("before the lease ends").isBefore(session().leaseUntil());
    }

    @Test
    void aSessionRenewedAtTheLastMomentGoesOn() {
        UUID before = instance.sessionId().orElseThrow();
        store.unplugged = true;
        clock.forward(Duration.ofSeconds(14));
        keep.step();
        store.unplugged = false;
        keep.step();

        assertThat(instance.sessionId()).contains(before);
        assertThat(instance.liveSession()).isPresent();
    }

    @Test
    void afterALapseANewSessionIsOpenedAndTheOldOneIsNotRevived() {
        holdRun();
        UUID before = instance.sessionId().orElseThrow();
        clock.forward(Duration.ofSeconds(60));
        keep.step();

        assertThat(instance.sessionId()).isPresent().isNotEqualTo(Optional.of(before));
        assertThat(instance.held()).isEmpty();
        assertThat(memory.<Long>transact(tx -> tx.sessions().epoch())).isZero();
        verify(workers).stop(any(), eq(StopReason.LEASE_LOST));
    }

    @Test
    void aSessionThatIsGoneFromTheDatabaseRaisesTheEpoch() {
        memory.transact(tx -> {
            tx.sessions().mark(instance.sessionId().orElseThrow(), SessionRow.State.ENDED);
            return tx.sessions().forget(BEGIN.plusSeconds(1000));
        });
        clock.forward(Duration.ofSeconds(5));
        keep.step();

        assertThat(memory.<Long>transact(tx -> tx.sessions().epoch())).isEqualTo(1);
        assertThat(instance.session().orElseThrow().epoch()).isEqualTo(1);
        assertThat(events).extracting(Event::kind).contains(Event.Kind.LEASE_LOST);
    }
}
