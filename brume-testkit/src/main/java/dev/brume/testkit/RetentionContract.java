package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.Keep;
import dev.brume.Orders;
import dev.brume.Origin;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.Kept;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.history.Timeframe;
import dev.brume.spi.RetentionSteps;
import dev.brume.spi.RetentionSteps.Place;
import dev.brume.spi.RetentionSteps.Removed;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.junit.jupiter.api.Test;

/** What a store does with bounds of the ledger, and with what the ledger says of who ordered what with which payload. */
abstract class RetentionContract extends NamedLeaseContract {
    private <T> T retention(Function<RetentionSteps, T> step) {
        return store.transact(tx -> step.apply(tx.retention()));
    }

    private void endedRun(long job, Instant planned, SessionRow session) {
        RunRow run = leased(job, planned, session);
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));
    }

    @Test
    void boundsAreKeptOfAJobAndOfTheWhole() {
        Keep week = Keep.upTo(Duration.ofDays(7));
        long lamps = define(job("lamps").keep(week).build(), past(1));
        define(job("dues").build(), past(1));
        long tides = define(job("tides").keep(Keep.newest(50)).build(), past(1));
        Keep both = Keep.upTo(Duration.ofDays(400)).andNewest(1_000_000);
        retention(steps -> {
            steps.total(both);
            return null;
        });

        assertThat(store.history().retention().total()).isEqualTo(both);
        assertThat(store.history().retention().from()).isEqualTo(Instant.EPOCH);
        assertThat(store.history().retention().jobs())
                .extracting(Kept::job, Kept::keep)
                .containsExactly(tuple(lamps, week), tuple(tides, Keep.newest(50)));
        List<Kept> second = retention(steps -> steps.jobs(lamps, 10));
        assertThat(second).extracting(Kept::job).containsExactly(tides);
        Instant now = now();
        boolean begun = retention(steps -> steps.begin(now.minusSeconds(60)));
        boolean again = retention(steps -> steps.begin(now.minusSeconds(60)));
        assertThat(begun).isTrue();
        assertThat(again).isFalse();
        assertThat(store.history().retention().appliedAt()).isPresent();
    }

    @Test
    void theFloorIsKeptAndWhatTheChangeLogSaidLastIsFound() {
        Optional<Duration> none = retention(RetentionSteps::floor);
        assertThat(none).isEmpty();
        assertThat(store.history().retention().appliedAt()).isEmpty();
        retention(steps -> {
            steps.lock();
            steps.floor(Optional.of(Duration.ofDays(30)));
            return null;
        });
        assertThat(store.history().retention().floor()).contains(Duration.ofDays(30));

        try (Brume brume = Brume.on(store).instance("office").build()) {
            Orders archivist = brume.orders("ines", "");
            archivist.keep(Keep.newest(5));
            archivist.keep(Keep.newest(7));
            archivist.keepNoLeast();
        }
        Optional<String> said = retention(steps -> steps.said("the ledger keeps "));
        assertThat(said).contains("the ledger keeps the newest 7; before: the newest 5");
        Optional<String> never = retention(steps -> steps.said("nobody "));
        assertThat(never).isEmpty();
        assertThat(store.history().retention().floor()).isEmpty();
    }

    @Test
    void linesGoOldestFirstWithWhatBelongsToThemAndTheTallyKnows() {
        long lamps = define(job("lamps").build(), past(1));
        long dues = define(job("dues").build(), past(1));
        SessionRow session = liveSession("quay-1");
        Instant first = past(500).truncatedTo(ChronoUnit.SECONDS);
        for (int i = 0; i < 5; i++) {
            endedRun(lamps, first.plusSeconds(i), session);
            endedRun(dues, first.plusSeconds(i), session);
        }
        store.transact(tx -> {
            tx.addSpans(List.of(new Span(
                    lamps,
                    1,
                    first.minusSeconds(100),
                    first.minusSeconds(50),
                    first.minusSeconds(90),
                    first.minusSeconds(60),
                    3,
                    "MISSED")));
            return null;
        });

        Removed batch = retention(steps -> steps.remove(Optional.of(lamps), first.plusSeconds(3), 2));
        assertThat(batch.count()).isEqualTo(2);
        assertThat(batch.numbers().count()).isEqualTo(2);
        assertThat(batch.first()).contains(first);
        assertThat(batch.last()).contains(first.plusSeconds(1));
        Removed rest = retention(steps -> steps.remove(Optional.of(lamps), first.plusSeconds(3), 2));
        assertThat(rest.count()).isEqualTo(1);
        Removed spans = retention(steps -> steps.removeSpans(Optional.of(lamps), first.plusSeconds(3), 100));
        assertThat(spans.count()).isEqualTo(1);
        assertThat(spans.first()).contains(first.minusSeconds(90));
        assertThat(spans.last()).contains(first.minusSeconds(60));
        assertThat(spans.numbers().count()).isEqualTo(1);
        retention(steps -> {
            steps.close(Optional.of(lamps), first.plusSeconds(3));
            return null;
        });

        List<RunView> left = store.history().runs(RunFilter.newest(100));
        assertThat(left).hasSize(7);
        assertThat(left).filteredOn(run -> run.job().name().equals("lamps")).hasSize(2);
        Instant lampsFrom = retention(steps -> steps.keptFrom(lamps));
        Instant duesFrom = retention(steps -> steps.keptFrom(dues));
        assertThat(lampsFrom).isEqualTo(first.plusSeconds(3));
        assertThat(duesFrom).isEqualTo(Instant.EPOCH);
        List<JobAccount> accounts = new ArrayList<>();
        store.history().accounts(Timeframe.between(first, now()), accounts::add);
        assertThat(accounts).extracting(JobAccount::keptFrom).containsExactly(first.plusSeconds(3), Instant.EPOCH);

        Removed all = retention(steps -> steps.remove(Optional.empty(), first.plusSeconds(4), 100));
        assertThat(all.count()).isEqualTo(5);
        duesFrom = retention(steps -> steps.keptFrom(dues));
        assertThat(duesFrom).isAfter(first.plusSeconds(3));
    }

    @Test
    void theLedgerIsReadFromItsNewestLineBack() {
        long lamps = define(job("lamps").build(), past(1));
        long dues = define(job("dues").build(), past(1));
        SessionRow session = liveSession("quay-1");
        Instant first = past(500);
        for (int i = 0; i < 3; i++) {
            endedRun(lamps, first.plusSeconds(i), session);
            endedRun(dues, first.plusSeconds(i), session);
        }

        List<Place> read = new ArrayList<>();
        List<Place> page = retention(steps -> steps.newest(Optional.empty(), 4));
        while (!page.isEmpty()) {
            read.addAll(page);
            Place last = page.get(page.size() - 1);
            page = retention(steps -> steps.newest(Optional.of(last), 4));
        }
        assertThat(read)
                .containsExactly(
                        new Place(first.plusSeconds(2), dues, ""),
                        new Place(first.plusSeconds(2), lamps, ""),
                        new Place(first.plusSeconds(1), dues, ""),
                        new Place(first.plusSeconds(1), lamps, ""),
                        new Place(first, dues, ""),
                        new Place(first, lamps, ""));
    }

    @Test
    void theRecordSaysWhoOrderedARunAndNotWhatIsSecretInItsPayload() {
        long job = define(job("dues").build(), past(1));
        SessionRow session = liveSession("quay-1");
        RunRow plain = run(job, past(10), RunState.RUNNING, Optional.of(new RunRow.Lease(session.id(), 3, now())), 5);
        RunRow.Owed owed = new RunRow.Owed(
                job,
                plain.owed().planned(),
                "+1",
                Origin.BY_HAND,
                NOMINAL,
                "UTC",
                Optional.empty(),
                Optional.empty(),
                Optional.of("ines"));
        RunRow run = add(new RunRow(
                plain.id(),
                owed,
                1,
                plain.state(),
                plain.lane(),
                5,
                plain.needs(),
                plain.readyAt(),
                plain.lease(),
                List.of(),
                1,
                Optional.of("pin=1234"),
                List.of(),
                Optional.empty(),
                Optional.of("pin=***"),
                Optional.empty()));

        List<RunRow> held = store.transact(tx -> tx.lockRunsOf(session.id(), 10));
        assertThat(held.get(0).payload()).contains("pin=1234");
        assertThat(held.get(0).shownPayload()).contains("pin=***");
        RunView live = store.history().run(run.id()).orElseThrow();
        assertThat(live.payload()).contains("pin=***");
        assertThat(live.owed().orderedBy()).contains("ines");
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));
        RunView ended = store.history().run(run.id()).orElseThrow();
        assertThat(ended.payload()).contains("pin=***");
        assertThat(ended.owed().orderedBy()).contains("ines");
    }

    @Test
    void anInstanceSaysWhatItCanDoAndHowItsClockStands() {
        SessionRow session = liveSession("quay-1");
        store.transact(tx -> {
            tx.sessions().describe(session.id(), List.of("lamps", "tides"), Duration.ofMillis(-1500));
            return null;
        });
        renew(session.id(), Duration.ofSeconds(15));

        SessionRow read = store.history().sessions(false).get(0).row();
        assertThat(read.handlers()).contains(List.of("lamps", "tides"));
        assertThat(read.ahead()).isEqualTo(Duration.ofMillis(-1500));
    }
}
