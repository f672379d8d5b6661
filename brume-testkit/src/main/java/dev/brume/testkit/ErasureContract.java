package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.NotThereException;
import dev.brume.RunState;
import dev.brume.history.Change;
import dev.brume.history.ChangeFilter;
import dev.brume.history.Content;
import dev.brume.history.Erased;
import dev.brume.history.Erasure;
import dev.brume.history.IdRanges;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.SessionRow;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What a store does with the content of runs that is to be erased. */
abstract class ErasureContract extends RetentionContract {
    private Brume office() {
        return Brume.on(store).instance("office").build();
    }

    /** A run that failed twice, with all that a record can hold. */
    private long failedTwice(long job, SessionRow session) {
        RunRow first = leased(job, past(30), session);
        release(first, RunState.PLANNED, past(1), ended(first, AttemptEnd.FAILED, Optional.of("no ship 🚢")));
        RunRow second = claim(session, 10, Set.of()).get(0);
        end(second.leaseKey(), ended(second, AttemptEnd.FAILED, Optional.of("no pilot")));
        return first.id();
    }

    private List<SealedRow> sealed() {
        return store.history().sealedRows(SealedKind.LINE, 0, IdRanges.NONE, 100);
    }

    @Test
    void theContentOfARunGoesAndItsLineIsSealedAsBefore() {
        long job = define(job("tides").build(), past(1));
        SessionRow session = liveSession("quay-1");
        long run = failedTwice(job, session);
        long other = failedTwice(job, session);
        RunView before = store.history().run(run).orElseThrow();
        RunView untouched = store.history().run(other).orElseThrow();
        List<SealedRow> sealedBefore = sealed();
        assertThat(before.outputs()).hasSize(2);

        Erased erased;
        Erased again;
        try (Brume office = office()) {
            erased = office.orders("ines", "customer 4711 asked").erase(run).get(0);
            again = office.orders("ines", "to be sure").erase(run).get(0);
        }

        assertThat(erased.content().words()).isEqualTo("payload, result, 2 errors, output of 2 attempts");
        assertThat(Content.parse(erased.content().text())).isEqualTo(erased.content());
        assertThat(again.content().isEmpty()).isTrue();
        Erasure noted = store.history().erasure(run).orElseThrow();
        assertThat(again.earlier()).contains(noted);
        assertThat(store.history().erasures(0, 10)).containsExactly(noted);
        assertThat(noted.who()).isEqualTo("ines");
        assertThat(noted.because()).isEqualTo("customer 4711 asked");
        assertThat(noted.content()).isEqualTo(erased.content());

        RunView after = store.history().run(run).orElseThrow();
        assertThat(after.payload()).isEmpty();
        assertThat(after.result()).isEmpty();
        assertThat(after.outputs()).isEmpty();
        assertThat(after.attempts())
                .isEqualTo(before.attempts().stream()
                        .map(attempt -> attempt.withError(Optional.empty()))
                        .toList());
        assertThat(store.history().run(other)).contains(untouched);
        assertThat(sealed()).as("by digests").isEqualTo(sealedBefore);
        assertThat(store.history().changes(ChangeFilter.newest(10).withKind("ERASED")))
                .extracting(line -> line.change())
                .extracting(Change::who, Change::because, Change::text)
                .containsExactly(tuple(
                        "ines",
                        "customer 4711 asked",
                        "run " + run + ": payload, result, 2 errors, output of 2 attempts"));
    }

    @Test
    void whatRetentionRemovesNeedsNoDigestsAnyMore() {
        long job = define(job("tides").build(), past(1));
        long run = failedTwice(job, liveSession("quay-1"));
        try (Brume office = office()) {
            office.orders("ines", "customer 4711 asked").erase(run);
        }

        store.transact(tx -> tx.retention().remove(Optional.empty(), now(), 10));

        assertThat(store.history().run(run)).isEmpty();
        assertThat(store.history().erasures(0, 10)).isEmpty();
    }

    @Test
    void allIsErasedOrNothingIsAndSomebodySaysWhy() {
        long job = define(job("tides").build(), past(1));
        SessionRow session = liveSession("quay-1");
        long run = failedTwice(job, session);
        RunRow live = leased(job, past(10), session);
        RunView before = store.history().run(run).orElseThrow();
        try (Brume office = office()) {
            assertThatThrownBy(() -> office.orders("ines", "asked").erase(run, live.id()))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("run " + live.id() + " has not ended yet; it is RUNNING");
            assertThatThrownBy(() -> office.orders("ines", "asked").erase(run, 999_999_999))
                    .isInstanceOf(NotThereException.class);
            assertThatThrownBy(() -> office.orders("ines", " ").erase(run))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("the change log is to say why");
        }
        assertThat(store.history().run(run)).contains(before);
        assertThat(store.history().erasures(0, 10)).isEmpty();
    }
}
