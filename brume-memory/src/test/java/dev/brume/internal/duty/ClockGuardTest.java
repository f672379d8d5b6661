package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.SessionView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The database's clock goes astray; ours, and the monotonic one, do not. */
class ClockGuardTest {
    private static final Instant BEGIN = HandClock.BEGIN;

    private final HandClock clock = new HandClock();
    private Duration astray = Duration.ZERO;
    private final MemoryStore store = new MemoryStore(() -> clock.wall().plus(astray));
    private final List<Event> events = new ArrayList<>();
    private TestNode quay;

    @BeforeEach
    void start() {
        quay = new TestNode("quay-1", 1, store, clock, events);
        new Registrar(quay.instance)
                .define(
                        DefinitionSet.of(
                                "test",
                                List.of(Job.named("tides")
                                        .every(Duration.ofSeconds(10))
                                        .ifMissed(IfMissed.runLatest().tolerance(Duration.ofSeconds(60)))
                                        .program("true")
                                        .build())),
                        Edit.by(Orderer.at(quay.instance, "tester", "")));
    }

    private void pass(int seconds, TestNode... nodes) {
        for (int i = 0; i < seconds; i++) {
            clock.forward(Duration.ofSeconds(1));
            for (TestNode node : nodes) {
                if (i % 5 == 4) {
                    node.keep.step();
                }
                for (int step = 0; step < 5; step++) {
                    node.round.step();
                }
                for (LeasedRun run : List.copyOf(node.started)) {
                    node.started.remove(run);
                    node.complete(run, AttemptEnd.SUCCEEDED);
                }
            }
        }
    }

    private JobView job() {
        return store.history().jobs().get(0);
    }

    private SessionView session(String instance) {
        return store.history().sessions(true).stream()
                .filter(view -> view.row().instance().equals(instance))
                .filter(view -> view.row().endedAt().isEmpty())
                .findFirst()
                .orElseThrow();
    }

    @Test
    void aServerThatReads2036ForAMinuteMissesNoTenYears() {
        pass(20, quay);
        astray = Duration.ofDays(3652);
        pass(60, quay);

        assertThat(job().row().cursor()).as("cursor").isBefore(clock.wall().plus(ClockGuard.AHEAD));
        assertThat(store.history().spans(RunFilter.newest(10)))
                .as("nothing was missed")
                .isEmpty();
        assertThat(events)
                .anySatisfy(event -> assertThat(event.text()).contains("the database's clock jumped by +3652d"));

        astray = Duration.ZERO;
        pass(40, quay);
        assertThat(store.history().spans(RunFilter.newest(10))).isEmpty();
        assertThat(store.history().runs(RunFilter.newest(100)))
                .extracting(run -> run.owed().planned())
                .doesNotHaveDuplicates()
                .contains(BEGIN.plusSeconds(90), BEGIN.plusSeconds(110));
    }

    @Test
    void definingWhileTheClockIsAstrayMovesNoCursorIntoTheFuture() {
        pass(10, quay);
        astray = Duration.ofDays(3652);
        pass(1, quay);
        new Registrar(quay.instance)
                .define(
                        DefinitionSet.of(
                                "test",
                                List.of(Job.named("tides")
                                        .every(Duration.ofSeconds(7))
                                        .program("true")
                                        .build())),
                        Edit.by(Orderer.at(quay.instance, "tester", "")));

        assertThat(job().row().cursor()).isBefore(clock.wall().plus(ClockGuard.AHEAD));
    }

    @Test
    void afterAJumpNobodyIsTakenOverBeforeItWasSeenSilentForAWholeLease() {
        TestNode other = new TestNode("quay-2", 0, store, clock, events);
        pass(10, quay, other);
        UUID alive = session("quay-2").row().id();
        astray = Duration.ofHours(1);
        quay.round.step();
        quay.round.step();

        assertThat(session("quay-2").row().id())
                .as("lapsed by the clock, alive in truth")
                .isEqualTo(alive);
        assertThat(session("quay-2").row().state().name()).isEqualTo("OPEN");
    }

    @Test
    void afterAJumpASessionThatStaysSilentIsTakenOver() {
        new TestNode("quay-2", 0, store, clock, events);
        pass(5, quay);
        astray = Duration.ofHours(1);
        pass(12, quay);
        assertThat(store.history().sessions(true))
                .filteredOn(view -> view.row().instance().equals("quay-2"))
                .allSatisfy(view -> assertThat(view.row().endedAt()).isEmpty());
        pass(20, quay);

        assertThat(store.history().sessions(true))
                .filteredOn(view -> view.row().instance().equals("quay-2"))
                .allSatisfy(view -> assertThat(view.row().endedAt()).isPresent());
    }

    @Test
    void aDeadSessionWithALeaseInTheFutureIsTakenOverToo() {
        astray = Duration.ofDays(3652);
        new TestNode("quay-2", 0, store, clock, events);
        astray = Duration.ZERO;
        pass(50, quay);

        assertThat(store.history().sessions(true))
                .filteredOn(view -> view.row().instance().equals("quay-2"))
                .allSatisfy(view -> assertThat(view.row().endedAt()).isPresent());
    }

    @Test
    void aClockThatStaysAheadIsBelievedInTheEnd() {
        pass(10, quay);
        astray = Duration.ofHours(1);
        pass(660, quay);

        assertThat(job().row().cursor()).isAfter(clock.wall().plus(Duration.ofMinutes(50)));
    }
}
