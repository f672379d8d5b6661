package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.OneOffFilter;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.spi.OneOffOrder;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What a store does with leases by name, follow-ups, and sessions that are held together. */
abstract class NamedLeaseContract extends GateContract {
    @Test
    void aLeaseByNameIsAddedOnceWrittenLookedAtAndForgotten() {
        Instant now = now().truncatedTo(ChronoUnit.MICROS);
        NamedLeaseRow lease =
                new NamedLeaseRow("dues", "quay-1", 7, now, now, now.plusSeconds(60), now.plusSeconds(60));
        NamedLeaseRow released = lease.released(now, now.plusSeconds(5));

        assertThat(store.<Boolean>transact(tx -> tx.leases().add(lease))).isTrue();
        assertThat(store.<Boolean>transact(tx -> tx.leases().add(released))).isFalse();
        assertThat(locked("dues")).contains(lease);
        assertThat(locked("Dues")).isEmpty();
        store.transact(tx -> {
            tx.leases().write(released);
            return null;
        });
        assertThat(store.history().leases()).containsExactly(released);
        assertThat(released.state(now.plusSeconds(4))).isEqualTo(NamedLeaseRow.State.COOLING);
        assertThat(released.state(now.plusSeconds(5))).isEqualTo(NamedLeaseRow.State.FREE);
        int early = store.transact(tx -> tx.leases().forget(now));
        int late = store.transact(tx -> tx.leases().forget(now.plusSeconds(6)));
        assertThat(early).isZero();
        assertThat(late).isEqualTo(1);
        assertThat(store.history().leases()).isEmpty();
    }

    private Optional<NamedLeaseRow> locked(String name) {
        return store.transact(tx -> tx.leases().lock(name));
    }

    @Test
    void runsAreFoundByTagReasonInstanceOriginErrorAndPageByPage() {
        long night = define(Job.named("lamps").tag("night").program("true").build(), past(1));
        long day = define(Job.named("dues").program("true").build(), past(1));
        SessionRow session = liveSession("quay-1");
        RunRow failed = leased(night, past(50), session);
        end(failed.leaseKey(), ended(failed, AttemptEnd.FAILED, Optional.of("No Oil (50%)")));
        RunRow waiting = add(run(night, past(40), RunState.PLANNED, Optional.empty(), 5));
        RunRow other = leased(day, past(30), session);
        RunFilter all = RunFilter.newest(10);

        assertThat(found(all.withTag("night"))).containsExactly(waiting.id(), failed.id());
        assertThat(found(all.withTag("ight"))).isEmpty();
        assertThat(found(all.on("quay-1"))).containsExactly(other.id(), failed.id());
        assertThat(found(all.withError("oil (50%"))).containsExactly(failed.id());
        assertThat(found(all.withError("o_l"))).isEmpty();
        RunFilter.Below below = new RunFilter.Below(other.owed().planned(), other.id());
        assertThat(found(all.below(below))).containsExactly(waiting.id(), failed.id());
        assertThat(found(all.withOrigin(Origin.BY_HAND))).isEmpty();
    }

    private List<Long> found(RunFilter filter) {
        return store.history().runs(filter).stream().map(RunView::id).toList();
    }

    @Test
    void sessionsThatTakeWorkAreHeldTogether() {
        SessionRow live = liveSession("quay-1");
        session("quay-2", past(1));
        SessionRow draining = liveSession("quay-3");
        store.transact(tx -> {
            tx.sessions().mark(draining.id(), SessionRow.State.DRAINING);
            return null;
        });

        List<SessionRow> held = store.transact(tx -> tx.sessions().holdOpen());

        assertThat(held).extracting(SessionRow::id).containsExactly(live.id());
        assertThat(held.get(0).labels()).containsExactly("crane", "north");
        assertThat(held.get(0).laneNames()).containsExactly("main", "night");
    }

    @Test
    void itIsKnownWhichJobsFollowAndWhatFollowsARunIsOrderedOnceAndForgottenWhenItIsMade() {
        JobName dues = JobName.parse("dues");
        Job following = Job.named("manifests")
                .program("true")
                .followUp(FollowUp.On.END, "night/lamps")
                .followUp(FollowUp.On.SUCCESS, "dues")
                .build();
        define(following, past(1));
        long id = define(Job.named(dues).program("true").build(), past(1));
        Map<JobName, List<JobName>> edges = store.transact(tx -> tx.followUps(List.of(following.name(), dues)));
        assertThat(edges).containsOnlyKeys(following.name());
        assertThat(edges.get(following.name())).containsExactlyInAnyOrder(dues, JobName.parse("night/lamps"));

        Instant due = past(1);
        OneOffOrder order = OneOffOrder.following(18, id, 17, due, Optional.empty());
        assertThat(store.<Boolean>transact(tx -> tx.oneOffs().add(order))).isTrue();
        assertThat(store.<Boolean>transact(tx -> tx.oneOffs().add(order))).isFalse();
        List<OneOffOrder> rows = store.transact(tx -> tx.oneOffs().due(Optional.empty(), now(), 10));
        assertThat(rows).containsExactly(order);
        assertThat(store.history().oneOffs(OneOffFilter.first(10)))
                .as("nothing that a person planned")
                .isEmpty();
        store.transact(tx -> {
            tx.oneOffs().made(List.of(rows.get(0).run()));
            return null;
        });
        assertThat(store.<Boolean>transact(tx -> tx.oneOffs().add(order)))
                .as("its row is gone")
                .isTrue();
        assertThat(FollowUp.On.values())
                .allSatisfy(on -> assertThat(new FollowUp(on, dues).follows(Outcome.SKIPPED))
                        .isFalse());
    }
}
