package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.JobRow;
import dev.brume.history.NewestRuns;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.history.Vitals;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** What a store does with sessions and epochs, and how it is looked at. */
abstract class SessionContract extends RunContract {
    @Test
    void aLiveSessionIsRenewedAndALapsedOneNeverIs() {
        SessionRow live = liveSession("quay-1");
        SessionRow lapsed = session("quay-2", past(1));

        Instant renewed = store.transact(
                        tx -> tx.sessions().renew(known(live.id(), tx), Duration.ofSeconds(15), VITALS))
                .orElseThrow()
                .at();
        assertThat(store.transact(tx -> tx.sessions().lock(live.id()))
                        .orElseThrow()
                        .leaseUntil())
                .isEqualTo(renewed.plusSeconds(15));
        assertThat(store.history().sessions(/* ended= */ false))
                .filteredOn(view -> view.row().id().equals(live.id()))
                .extracting(view -> view.row().vitals())
                .containsExactly(Optional.of(VITALS));
        assertThat(Vitals.parse("in a way of a later version")).isEmpty();
        assertThat(Vitals.parse("heap 99999999999999999999 of 1, load 0.00 on 2"))
                .isEmpty();
        assertThat(holds(live.id())).isTrue();
        assertThat(renew(lapsed.id(), Duration.ofSeconds(15))).isEmpty();
        assertThat(holds(lapsed.id())).isFalse();
        assertThat(renew(UUID.randomUUID(), Duration.ofSeconds(15))).isEmpty();
        assertThat(lapsed()).extracting(SessionRow::id).containsExactly(lapsed.id());
    }

    @Test
    void aSessionBeingTakenOverLeasesNothingMoreAndIsForgottenLongAfterItsEnd() {
        SessionRow session = liveSession("quay-1");
        store.transact(tx -> {
            tx.sessions().mark(session.id(), SessionRow.State.LAPSED);
            return null;
        });
        assertThat(holds(session.id())).isFalse();
        assertThat(renew(session.id(), Duration.ofSeconds(15))).isEmpty();

        store.transact(tx -> {
            tx.sessions().mark(session.id(), SessionRow.State.ENDED);
            return null;
        });
        assertThat(store.history().sessions(false)).isEmpty();
        assertThat(store.history().sessions(true).get(0).row().lanes()).containsExactly("main=4", "night=1");
        assertThat(forget(past(60))).isZero();
        assertThat(forget(now().plusSeconds(60))).isEqualTo(1);
    }

    @Test
    void theEpochRisesOnceForAllWhoNotice() {
        long before = store.transact(tx -> tx.sessions().epoch());

        assertThat(raise(before)).isEqualTo(before + 1);
        assertThat(raise(before)).isEqualTo(before + 1);
        assertThat(epoch()).isEqualTo(before + 1);
    }

    @Test
    void historyIsFilteredAndNewestFirst() {
        long tides = define(job("tides").build(), past(10));
        long ferries = define(job("ferries").build(), past(10));
        RunRow done = leased(tides, past(40), liveSession("quay-1"));
        end(done.leaseKey(), ended(done, AttemptEnd.SUCCEEDED, Optional.empty()));
        RunRow waiting = add(run(tides, past(30), RunState.PLANNED, Optional.empty(), 5));
        RunRow skipped = run(ferries, past(20), RunState.PLANNED, Optional.empty(), 5);
        Span span = new Span(ferries, 1, past(100), past(50), past(100), past(51), 17, "MISSED");
        store.transact(tx -> {
            tx.addLines(List.of(new LedgerLine(
                    skipped.id(),
                    skipped.owed(),
                    1,
                    "main",
                    past(20),
                    Outcome.SKIPPED,
                    Optional.of(Reason.BUSY),
                    List.of(),
                    Optional.empty(),
                    Optional.empty())));
            tx.addSpans(List.of(span));
            return null;
        });
        RunFilter all = RunFilter.newest(10);

        assertThat(store.history().runs(all))
                .extracting(RunView::id)
                .containsExactly(skipped.id(), waiting.id(), done.id());
        assertThat(store.history().runs(all.of(new JobName("harbour", "tides"))))
                .extracting(RunView::id)
                .containsExactly(waiting.id(), done.id());
        RunFilter onlySkipped =
                RunFilter.newest(10).withOutcome(Outcome.SKIPPED).from(past(25)).until(now());
        assertThat(store.history().runs(onlySkipped))
                .extracting(RunView::reason)
                .containsExactly(Optional.of("BUSY"));
        assertThat(store.history().spans(all))
                .extracting(view -> view.span().count())
                .containsExactly(17L);
        assertThat(store.history().runs(RunFilter.newest(1))).hasSize(1);
        assertThat(store.history()
                        .job(new JobName("harbour", "tides"))
                        .orElseThrow()
                        .row()
                        .name()
                        .name())
                .isEqualTo("tides");
        assertThat(store.history().jobs())
                .extracting(view -> view.job().schedules().get(0).zone())
                .containsOnly(ZoneId.of("Atlantic/Azores"));
    }

    @Test
    void jobsThatAreCrowdedUnawaresAreFound() {
        long right = define(job("right").build(), past(10));
        RunRow known = add(run(right, past(10), RunState.PLANNED, Optional.empty(), 5));
        note(right, NewestRuns.NONE.planned(known.id(), /* isCrowded= */ false, /* beforeIsOver= */ true));
        long wrong = define(job("wrong").build(), past(10));
        add(run(wrong, past(10), RunState.PLANNED, Optional.empty(), 5));
        add(run(wrong, past(20), RunState.WAITING, Optional.empty(), 5));

        List<JobRow> found = store.transact(tx -> tx.crowdedUnawares(10));
        assertThat(found).extracting(JobRow::id).containsExactly(wrong);
    }
}
