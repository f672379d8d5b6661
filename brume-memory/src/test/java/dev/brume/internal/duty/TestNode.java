package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.Work;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Store;
import dev.brume.spi.TimeSource;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.mockito.Mockito;

/** One instance with its duties; its workers are told to be free as far as the test says. */
final class TestNode {
    static final Duration LEASE = Duration.ofSeconds(15);

    final Instance instance;
    final RenewDuty keep;
    final RoundDuty round;
    final FinishDuty finish;
    final SettleDuty settle;
    final List<LeasedRun> started = new ArrayList<>();
    final WorkerPool workers = mock(WorkerPool.class);
    private final TimeSource clock;

    TestNode(String name, int free, Store store, TimeSource clock, List<Event> events, String... handlers) {
        this.clock = clock;
        Settings settings = new Settings(name, "host", 1, Map.of("main", 4), LEASE, Duration.ofSeconds(1), 50);
        instance = new Instance(settings, store, clock, events::add);
        instance.handlers().addAll(List.of(handlers));
        instance.handlers().addAll(List.of(Work.PROGRAMS, Work.REQUESTS));
        when(workers.free("main")).thenAnswer(call -> Math.max(0, free - started.size()));
        Mockito.doAnswer(call -> started.add(call.getArgument(0))).when(workers).start(any());
        instance.workers(workers);
        // Which instance plans a job first goes by the ids of the sessions, so they are the same each time.
        keep = new RenewDuty(
                instance, () -> new UUID(0, store.history().sessions(true).size() + 1));
        round = new RoundDuty(instance);
        settle = new SettleDuty(instance);
        finish = new FinishDuty(instance, settle::step);
        keep.step();
    }

    LeasedRun takeStarted() {
        assertThat(started).hasSize(1);
        return started.remove(0);
    }

    void complete(LeasedRun run, AttemptEnd end) {
        instance.completed(Completion.of(run, run.attempt(clock.nanos(), clock.nanos(), end, Optional.empty())));
        finish.step();
    }
}
