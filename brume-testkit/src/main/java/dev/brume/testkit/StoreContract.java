package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.spi.Renewal;
import dev.brume.spi.SessionLease;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import org.junit.jupiter.api.Test;

/**
 * What every store must do; to be extended by a test class for each.
 *
 * <p>It works on the store's own clock, so nothing here waits: what is to be late or lapsed is written
 * in the past.
 *
 * @since 0.1.0
 */
public abstract class StoreContract extends NoticeContract {

    /** Creates the contract. */
    protected StoreContract() {}

    @Test
    void aRevisionIsNotedForEachSource() {
        store.transact(tx -> {
            assertThat(tx.revision("harbour.yaml")).isEmpty();
            tx.revision("harbour.yaml", 7, "tester");
            tx.revision("harbour.yaml", 9, "tester");
            tx.revision("other.yaml", 1, "tester");
            return null;
        });
        OptionalLong noted = store.transact(tx -> tx.revision("harbour.yaml"));
        assertThat(noted).hasValue(9);
    }

    @Test
    void aSessionOfAnotherEpochOrHistoryIsNeitherHeldNorRenewed() {
        SessionRow session = liveSession("quay-1");
        SessionLease known = store.transact(tx -> known(session.id(), tx));
        SessionLease otherEpoch =
                new SessionLease(session.id(), known.epoch() + 1, known.renewedAt(), known.timeline());
        SessionLease otherHistory = new SessionLease(session.id(), known.epoch(), known.renewedAt(), "elsewhere");
        SessionLease newer = new SessionLease(session.id(), known.epoch(), now().plusSeconds(60), known.timeline());

        for (SessionLease other : List.of(otherEpoch, otherHistory, newer)) {
            boolean held = store.transact(tx -> tx.sessions().hold(other).isPresent());
            assertThat(held).as("%s", other).isFalse();
        }
        for (SessionLease other : List.of(otherEpoch, otherHistory)) {
            Optional<Renewal> renewed =
                    store.transact(tx -> tx.sessions().renew(other, Duration.ofSeconds(15), VITALS));
            assertThat(renewed).as("%s", other).isEmpty();
        }
        boolean held = store.transact(tx -> tx.sessions().hold(known).isPresent());
        assertThat(held).isTrue();
    }

    @Test
    void aHistoryIsNoted() {
        String noted = store.transact(tx -> {
            tx.sessions().noteTimeline("00000007");
            return tx.sessions().notedTimeline();
        });
        assertThat(noted).isEqualTo("00000007");
    }

    @Test
    void aLeaseIsHeldUntilItsEndAndThenOnRecord() {
        long id = define(job("a").build(), past(10));
        RunRow run = leased(id, past(10), liveSession("quay-1"));
        LeaseKey old =
                new LeaseKey(run.id(), run.leaseKey().session(), run.leaseKey().fence() - 1);
        store.transact(tx -> {
            assertThat(tx.holdLease(run.leaseKey())).isTrue();
            assertThat(tx.holdLease(old)).isFalse();
            assertThat(tx.ended(run.leaseKey())).isFalse();
            return null;
        });
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));
        store.transact(tx -> {
            assertThat(tx.holdLease(run.leaseKey())).isFalse();
            assertThat(tx.ended(run.leaseKey())).isTrue();
            assertThat(tx.ended(old)).isFalse();
            return null;
        });
    }

    @Test
    void openSessionsAreFoundByTheirInstance() {
        SessionRow open = liveSession("quay-1");
        SessionRow draining = liveSession("quay-1");
        liveSession("quay-2");
        store.transact(tx -> {
            tx.sessions().mark(draining.id(), SessionRow.State.DRAINING);
            return null;
        });

        List<SessionRow> found = store.transact(tx -> tx.sessions().lockOpenOf("quay-1"));
        assertThat(found).extracting(SessionRow::id).containsExactly(open.id());
    }
}
