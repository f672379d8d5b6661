package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.doReturn;
import static org.mockito.Mockito.spy;

import dev.brume.AttemptEnd;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What falls due next is planned ahead, and what may happen while the transaction waits for the instant. */
class OnTheDotTest {
    private static final Instant DUE = HandClock.BEGIN.plusSeconds(10);

    private final HandClock clock = new HandClock();
    private Duration offset = Duration.ZERO;
    private final MemoryStore store = spy(new MemoryStore(() -> clock.wall().plus(offset)));
    private final List<Event> events = new ArrayList<>();
    private TestNode quay;

    /** The first occurrence has run, and the second is due in three milliseconds. */
    @BeforeEach
    void waitForTheSecond() {
        doReturn(true).when(store).locksRowsAlone();
        quay = new TestNode("quay-1", 4, store, clock, events);
        Job job =
                Job.named("tides").every(Duration.ofSeconds(10)).program("true").build();
        new Registrar(quay.instance)
                .define(DefinitionSet.of("test", List.of(job)), Edit.by(Orderer.at(quay.instance, "tester", "")));
        quay.round.step();
        quay.complete(quay.takeStarted(), AttemptEnd.SUCCEEDED);
        clock.forward(Duration.ofSeconds(9));
        quay.keep.step();
        quay.round.step();
        clock.forward(Duration.ofMillis(997));
    }

    private List<RunView> second() {
        return store.history().runs(RunFilter.newest(10)).stream()
                .filter(run -> run.owed().planned().equals(DUE))
                .toList();
    }

    @Test
    void itBeginsWhenItIsDueAndNotBefore() {
        List<Duration> rests = new ArrayList<>();
        clock.whenResting(rest -> {
            rests.add(rest);
            clock.forward(rest.dividedBy(2).plusNanos(1000));
        });
        quay.round.step();

        LeasedRun run = quay.takeStarted();
        assertThat(run.row().owed().planned()).isEqualTo(DUE);
        assertThat(run.row().lease().orElseThrow().since()).isEqualTo(DUE);
        assertThat(clock.wall()).isBetween(DUE, DUE.plusMillis(1));
        assertThat(rests).as("a rest that was too short is followed by another").hasSizeGreaterThan(1);
        assertThat(second()).hasSize(1);
    }

    @Test
    void nothingIsPlannedUnderALeaseThatEndsMeanwhile() {
        List<Duration> rests = new ArrayList<>();
        clock.whenResting(rest -> {
            rests.add(rest);
            clock.forward(Duration.ofSeconds(60));
        });
        quay.round.step();

        assertThat(rests).hasSize(1);
        assertThat(second()).isEmpty();
        assertThat(store.history().jobs().get(0).row().nextAt()).contains(DUE);
    }

    @Test
    void nothingIsPlannedIfTheDatabasesClockIsPutBackMeanwhile() {
        List<Duration> rests = new ArrayList<>();
        clock.whenResting(rest -> {
            rests.add(rest);
            clock.forward(rest);
            offset = Duration.ofSeconds(-3);
        });
        quay.round.step();

        assertThat(rests).hasSize(1);
        assertThat(second()).isEmpty();
        assertThat(store.history().jobs().get(0).row().nextAt()).contains(DUE);
    }

    @Test
    void theDatabasesClockIsAskedEvenIfPlanningTookUntilTheInstant() {
        offset = Duration.ofMillis(-2);
        doAnswer(transaction -> {
                    clock.forward(Duration.ofMillis(4));
                    return transaction.callRealMethod();
                })
                .when(store)
                .transact(any());
        List<Duration> rests = new ArrayList<>();
        clock.whenResting(rest -> {
            rests.add(rest);
            clock.forward(rest);
        });
        quay.round.step();

        assertThat(quay.takeStarted().row().owed().planned()).isEqualTo(DUE);
        assertThat(clock.wall().plus(offset)).isAfterOrEqualTo(DUE);
        assertThat(rests).hasSize(1);
    }
}
