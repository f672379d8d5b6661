package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.GateKey;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;

/** What a store knows of what was in force at an instant of the past. */
abstract class PastContract extends FeedContract {
    private static final GateKey PILOTS = new GateKey(GateKey.Kind.LIMIT, "pilots");

    private void step(Consumer<Transaction> steps) {
        store.transact(tx -> {
            steps.accept(tx);
            return null;
        });
    }

    /** An instant that is later than whatever was done before, and earlier than whatever is done after. */
    private Instant between() {
        Instant before = now();
        Instant now = now();
        while (!now.isAfter(before.plusNanos(2000))) {
            now = now();
        }
        Instant at = now;
        while (!now.isAfter(at.plusNanos(2000))) {
            now = now();
        }
        return at;
    }

    @Test
    void pausesNumbersOfPlacesSessionsAndWaitingRunsAreKnownAsTheyWere() {
        Pause.Scope lamps = Pause.Scope.of(JobName.parse("harbour/lamps"));
        long job = define(job("tides").build(), past(1));
        Instant empty = between();
        SessionRow session = liveSession("quay-1");
        pause(lamps, "ines");
        step(tx -> tx.gates().add(Map.of(PILOTS, 2)));
        RunRow goes = add(run(job, past(40), RunState.WAITING, Optional.empty(), 5));
        RunRow ends = add(run(job, past(30), RunState.WAITING, Optional.empty(), 5));
        Instant first = between();
        step(tx -> tx.sessions().mark(session.id(), SessionRow.State.DRAINING));
        step(tx -> tx.gates().resize(Map.of(PILOTS, 5)));
        step(tx -> tx.letGo(List.of(goes.id()), tx.now()));
        Instant second = between();
        step(tx -> tx.orders().endPauses(lamps, tx.now()));
        step(tx -> tx.orders().endWaiting(ends.id(), Outcome.CANCELLED, Reason.BY_HAND));
        step(tx -> tx.sessions().mark(session.id(), SessionRow.State.ENDED));
        Instant third = between();
        pause(lamps, "anna");
        step(tx -> tx.gates().resize(Map.of(PILOTS, 1)));
        step(tx -> tx.sessions().forget(tx.now()));

        assertPast(empty, List.of(), 2, Optional.empty(), List.of());
        assertPast(first, List.of("ines"), 2, Optional.of(SessionRow.State.OPEN), List.of(goes.id(), ends.id()));
        assertPast(second, List.of("ines"), 5, Optional.of(SessionRow.State.DRAINING), List.of(ends.id()));
        assertPast(third, List.of(), 5, Optional.empty(), List.of());
        assertPast(between(), List.of("anna"), 1, Optional.empty(), List.of());
        assertThat(store.history().sessions(true)).as("laid aside").isEmpty();

        step(tx -> tx.retention().close(Optional.empty(), third));
        assertPast(first, List.of(), 5, Optional.empty(), List.of(goes.id(), ends.id()));
    }

    private void pause(Pause.Scope scope, String who) {
        step(tx -> tx.orders()
                .addPause(new Pause(
                        scope, tx.now(), Optional.empty(), Pause.Owed.AS_DEFINED, who, "new lamp", Optional.empty())));
    }

    private void assertPast(
            Instant at, List<String> pausedBy, int pilots, Optional<SessionRow.State> session, List<Long> waiting) {
        Past past = store.history().past(at);
        assertThat(past.at()).isEqualTo(at);
        assertThat(past.pauses()).extracting(Pause::who).isEqualTo(pausedBy);
        assertThat(past.caps()).containsEntry(PILOTS, pilots);
        assertThat(past.sessions())
                .extracting(SessionRow::state)
                .isEqualTo(session.stream().toList());
        assertThat(past.waiting()).containsExactlyElementsOf(waiting);
    }
}
