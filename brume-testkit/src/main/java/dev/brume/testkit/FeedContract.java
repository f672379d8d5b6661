package dev.brume.testkit;

import static dev.brume.history.FeedEvent.Kind.ATTEMPT_ENDED;
import static dev.brume.history.FeedEvent.Kind.CHANGED;
import static dev.brume.history.FeedEvent.Kind.ENDED;
import static dev.brume.history.FeedEvent.Kind.LET_GO;
import static dev.brume.history.FeedEvent.Kind.PASSED_OVER;
import static dev.brume.history.FeedEvent.Kind.PLANNED;
import static dev.brume.history.FeedEvent.Kind.PROGRESS;
import static dev.brume.history.FeedEvent.Kind.STARTED;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.AttemptEnd;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.Change;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.spi.ProgressNote;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What a store tells those who follow what is committed. */
abstract class FeedContract extends AccessContract {
    private static final JobName TIDES = JobName.parse("harbour/tides");

    private FeedPosition begin() {
        store.transact(tx -> {
            tx.feed().listen(Duration.ofMinutes(1));
            return tx.feed().number(100);
        });
        return store.history().feed().end();
    }

    private FeedPage read(FeedPosition position, int limit) {
        store.transact(tx -> tx.feed().number(1000));
        return store.history().feed().after(position, limit);
    }

    private List<FeedEvent> all(FeedPosition position) {
        List<FeedEvent> events = new ArrayList<>();
        FeedPage page = read(position, 1);
        while (!page.events().isEmpty()) {
            assertThat(page.reset()).isFalse();
            events.addAll(page.events());
            page = read(page.next(), 1);
        }
        return events;
    }

    private void say(String... texts) {
        store.transact(tx -> {
            for (String text : texts) {
                tx.addChanges(List.of(Change.of("NOTED", "ines", "quay", text)));
            }
            return null;
        });
    }

    private static List<String> texts(List<FeedEvent> events) {
        return events.stream().map(event -> event.facts().get("text")).toList();
    }

    @Test
    void everyChangeIsToldOnceWithItsJobInTheOrderOfCommits() {
        long job = define(job("tides").build(), past(1));
        SessionRow session = liveSession("quay-1");
        FeedPosition begin = begin();

        RunRow first = leased(job, past(40), session);
        RunRow waits = add(run(job, past(30), RunState.WAITING, Optional.empty(), 5));
        LeaseKey older = new LeaseKey(first.id(), session.id(), first.leaseKey().fence() - 1);
        store.transact(tx -> {
            tx.progress(List.of(
                    new ProgressNote(first.leaseKey(), 40, "half the buoys"),
                    new ProgressNote(older, 90, "from before")));
            return null;
        });
        release(first, RunState.PLANNED, past(1), ended(first, AttemptEnd.FAILED, Optional.of("no ship")));
        RunRow again = claim(session, 1, Set.of()).get(0);
        end(again.leaseKey(), ended(again, AttemptEnd.SUCCEEDED, Optional.empty()));
        store.transact(tx -> {
            tx.letGo(List.of(waits.id()), now());
            return null;
        });
        store.transact(tx -> tx.orders().endWaiting(waits.id(), Outcome.CANCELLED, Reason.BY_HAND));
        Instant gap = past(500);
        store.transact(tx -> {
            tx.addSpans(List.of(new Span(job, 1, gap, gap.plusSeconds(9), gap, gap.plusSeconds(8), 3, "MISSED")));
            tx.addChanges(List.of(new Change(
                    "NOTED", "ines", "quay", Optional.of(TIDES), Optional.empty(), Optional.empty(), "naïve 🌫")));
            return null;
        });

        List<FeedEvent> events = all(begin);
        assertThat(events)
                .extracting(FeedEvent::kind, event -> event.run().orElse(0L))
                .containsExactly(
                        tuple(PLANNED, first.id()),
                        tuple(STARTED, first.id()),
                        tuple(PLANNED, waits.id()),
                        tuple(PROGRESS, first.id()),
                        tuple(ATTEMPT_ENDED, first.id()),
                        tuple(STARTED, first.id()),
                        tuple(ENDED, first.id()),
                        tuple(LET_GO, waits.id()),
                        tuple(ENDED, waits.id()),
                        tuple(PASSED_OVER, 0L),
                        tuple(CHANGED, 0L));
        assertThat(events).extracting(FeedEvent::job).containsOnly(Optional.of(TIDES));
        assertThat(events.get(3).facts()).containsEntry("percent", "40").containsEntry("message", "half the buoys");
        assertThat(events.get(4).facts()).containsEntry("end", "FAILED").containsEntry("state", "PLANNED");
        assertThat(events.get(6).facts()).containsEntry("outcome", "SUCCEEDED").containsEntry("attempt", "2");
        assertThat(events.get(8).facts()).containsEntry("outcome", "CANCELLED").containsEntry("reason", "BY_HAND");
        assertThat(events.get(9).facts()).containsEntry("count", "3").containsEntry("reason", "MISSED");
        assertThat(events.get(10).facts()).containsEntry("change", "NOTED").containsEntry("text", "naïve 🌫");
        for (int i = 0; i < events.size(); i++) {
            FeedPosition place = FeedPosition.parse(events.get(i).position().toString());
            assertThat(all(place)).as("from " + place).isEqualTo(events.subList(i + 1, events.size()));
        }
    }

    @Test
    void nothingIsFedWhileNobodyListensAndNothingOfWhatRollsBack() {
        say("before");
        assertThat(store.history().feed().needsCare(Duration.ofMinutes(1))).isTrue();
        FeedPosition begin = begin();
        assertThat(store.history().feed().needsCare(Duration.ofMinutes(1))).isFalse();
        assertThat(all(begin)).isEmpty();
        assertThatThrownBy(() -> store.transact(tx -> {
                    tx.addChanges(List.of(Change.of("NOTED", "ines", "quay", "undone")));
                    throw new IllegalStateException("undo");
                }))
                .hasMessage("undo");
        say("after");
        assertThat(store.history().feed().needsCare(Duration.ofMinutes(1))).isTrue();
        assertThat(texts(all(begin))).containsExactly("after");
    }

    @Test
    void aPlaceThatIsTooOldOrFromElsewhereIsAnsweredByAReset() {
        FeedPosition begin = begin();
        say("one", "two");
        say("three");
        List<FeedEvent> events = all(begin);
        assertThat(texts(events)).containsExactly("one", "two", "three");
        FeedPosition end = events.get(2).position();

        FeedPosition elsewhere = new FeedPosition(begin.epoch() + 1, begin.number(), 0);
        FeedPosition beyond = new FeedPosition(begin.epoch(), end.number() + 2, 0);
        for (FeedPosition position : List.of(elsewhere, beyond)) {
            FeedPage page = read(position, 10);
            assertThat(page.reset()).isTrue();
            assertThat(page.events()).isEmpty();
            assertThat(all(page.next())).as("from there on").isEmpty();
        }

        Instant soon = now().plusSeconds(60);
        int forgotten = store.transact(tx -> tx.feed().forget(soon, 10));
        assertThat(forgotten).as("all but the newest").isEqualTo(1);
        assertThat(read(events.get(0).position(), 10).reset()).isTrue();
        assertThat(all(end)).as("nothing was missed").isEmpty();
        assertThat(read(end, 10).reset()).isFalse();
        raise(begin.epoch());
        assertThat(read(end, 10).reset()).as("in a new epoch").isTrue();
    }

    @Test
    void whoeverStoppedListeningLearnsThatTheyMayHaveMissedSomething() {
        FeedPosition begin = begin();
        say("heard");
        List<FeedEvent> heard = all(begin);
        assertThat(texts(heard)).containsExactly("heard");
        stopListening();
        FeedPosition anew = begin();

        assertThat(read(heard.get(0).position(), 10).reset()).isTrue();
        say("heard again");
        assertThat(texts(all(anew))).containsExactly("heard again");
    }

    private void stopListening() {
        store.transact(tx -> {
            tx.feed().stopListening();
            return null;
        });
    }
}
