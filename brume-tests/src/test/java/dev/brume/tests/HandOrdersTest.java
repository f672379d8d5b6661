package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.BulkOrder;
import dev.brume.Cancelled;
import dev.brume.IfBusy;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.Orders;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.Reason;
import dev.brume.Run;
import dev.brume.RunHandle;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.Erased;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** The orders that people give, with a working instance on every database. */
class HandOrdersTest {
    private static final long SECONDS = 30;
    private static final JobName TIDES = JobName.parse("tides");

    /** One instance whose work goes on until it is let go, or told to stop. */
    private static final class Harbour implements AutoCloseable {
        private final BlockingQueue<Run> started = new LinkedBlockingQueue<>();
        private final Semaphore go = new Semaphore(0);
        private final Db.Fresh fresh;
        private final Brume brume;
        private final Orders orders;

        Harbour(Db db) {
            fresh = db.fresh();
            brume = Brume.on(fresh.store())
                    .instance("quay-1")
                    .poll(Duration.ofMillis(100))
                    .build();
            brume.handler("work", this::work);
            orders = brume.orders("anna", "new gauge");
        }

        private void work(Run run) throws Exception {
            started.add(run);
            while (!go.tryAcquire(20, TimeUnit.MILLISECONDS)) {
                if (run.stopAsked().isPresent()) {
                    run.result("told " + run.stopAsked().get());
                    throw new InterruptedException("stopped");
                }
            }
            run.result("did " + run.payload().orElse("nothing"));
        }

        void define(Job.Builder job) {
            brume.define(job.handler("work").build());
        }

        Run nextStarted() throws InterruptedException {
            Run run = started.poll(SECONDS, TimeUnit.SECONDS);
            assertThat(run).as("a run that starts").isNotNull();
            return run;
        }

        RunView run(long id) {
            return brume.history().run(id).orElseThrow();
        }

        RunView ended(long id) {
            await(() -> run(id).outcome().isPresent());
            return run(id);
        }

        void await(BooleanSupplier condition) {
            long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(SECONDS);
            while (!condition.getAsBoolean()) {
                assertThat(System.nanoTime() - until).as("waited in vain").isNegative();
            }
        }

        long onRecord(String kind) throws Exception {
            return fresh.number("select count(*) from " + fresh.table("brume_change") + " where kind = '" + kind
                    + "' and who = 'anna' and because = 'new gauge'");
        }

        /** Whatever was ordered, places are counted right in the end. */
        void checkCounts() throws Exception {
            String unsettled = "select count(*) from " + fresh.table("brume_settle");
            for (long left = fresh.number(unsettled); left > 0; left = fresh.number(unsettled)) {
                assertThat(brume.history().sessions(false)).as("who settles").isNotEmpty();
            }
            await(() -> fresh.store()
                    .<List<JobRow>>transact(tx -> tx.crowdedUnawares(10))
                    .isEmpty());
        }

        @Override
        public void close() {
            go.release(1000);
            brume.close();
            fresh.close();
        }
    }

    @ParameterizedTest
    @EnumSource
    void aJobStartsNowWithAPayloadOfItsOwnAndOnceMoreAsItWas(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).payload("ebb"));
            harbour.brume.start();
            harbour.go.release(3);

            long run = harbour.orders.runNow(TIDES, "neap").id();
            RunView first = harbour.ended(run);
            long again = harbour.orders.rerun(run).id();
            RunView second = harbour.ended(again);
            long plain = harbour.orders.runNow(TIDES).id();

            assertThat(first.outcome()).contains(Outcome.SUCCEEDED);
            assertThat(first.result()).contains("did neap");
            assertThat(first.owed().origin()).isEqualTo(Origin.BY_HAND);
            assertThat(second.result()).contains("did neap");
            assertThat(second.owed().origin()).isEqualTo(Origin.RERUN);
            assertThat(second.owed().planned()).isEqualTo(first.owed().planned());
            assertThat(second.owed().nominal()).isEqualTo(first.owed().nominal());
            assertThat(harbour.ended(plain).result()).contains("did ebb");
            assertThat(harbour.onRecord("RUN_ORDERED")).isEqualTo(2);
            assertThat(harbour.onRecord("RERUN_ORDERED")).isEqualTo(1);
            assertThatThrownBy(() -> harbour.orders.runNow(JobName.parse("tide")))
                    .hasMessage("there is no job 'tide'");
            assertThatThrownBy(() -> harbour.orders.rerun(99)).hasMessage("there is no run 99");
            harbour.checkCounts();
        }
    }

    @ParameterizedTest
    @EnumSource
    void manyRunsAreRerunOnceAndCancelledInOneOrder(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).payload("ebb").mask("code"));
            harbour.brume.start();
            harbour.go.release(3);
            List<Long> ended = new ArrayList<>();
            for (String payload : List.of("neap", "spring", "{\"code\": \"4711\"}")) {
                ended.add(harbour.ended(harbour.orders.runNow(TIDES, payload).id())
                        .id());
            }
            RunFilter those = RunFilter.newest(100).of(TIDES).withOrigin(Origin.BY_HAND);

            BulkOrder reruns = harbour.orders.rerunAll(those);
            assertThat(reruns.done()).hasSize(2);
            assertThat(reruns.left()).containsOnlyKeys(ended.get(2));
            assertThat(reruns.left().get(ended.get(2))).contains("masked");
            BulkOrder again = harbour.orders.rerunAll(those);
            assertThat(again.done()).as("given twice").isEmpty();
            assertThat(again.left()).containsOnlyKeys(ended).containsEntry(ended.get(0), "it was rerun before");

            BulkOrder cancelled = harbour.orders.cancelAll(RunFilter.newest(100).of(TIDES));
            assertThat(cancelled.left()).containsOnlyKeys(ended).containsValue("it had ended before");
            assertThat(cancelled.done()).containsExactlyElementsOf(reruns.done());
            for (RunHandle run : reruns.done()) {
                assertThat(run.await(Duration.ofSeconds(60)).outcome()).isEqualTo(Outcome.CANCELLED);
            }
            assertThatThrownBy(() -> harbour.orders.cancelAll(RunFilter.newest(10_001)))
                    .hasMessage("an order about 10001 runs is above 10000; give several");
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatIsOnRecordOfAOneOffsKeyIsErasedWithItsReruns(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).payload("ebb"));
            harbour.brume.start();
            OneOffs oneOffs = harbour.orders.oneOffs();
            oneOffs.add(OneOff.of(TIDES, "customer-4711").at(Instant.EPOCH).payload("Anna Merrow, quay 4"));
            oneOffs.add(OneOff.of(TIDES, "customer-12")
                    .at(Instant.EPOCH.plusSeconds(4_000_000_000L))
                    .payload("Ines"));
            long run = harbour.nextStarted().id();
            assertThatThrownBy(() -> harbour.orders.erase(TIDES, "customer-4711"))
                    .hasMessageContaining("run " + run + " has not ended yet");
            harbour.go.release(2);
            harbour.ended(run);
            long rerun = harbour.orders.rerun(run).id();
            harbour.ended(rerun);
            assertThat(harbour.run(rerun).result()).contains("did Anna Merrow, quay 4");

            assertThat(harbour.orders.erase(run).get(0).reruns()).containsExactly(rerun);
            List<Erased> erased = harbour.orders.erase(TIDES, "customer-4711");
            assertThat(erased).extracting(Erased::run).containsExactly(run, rerun);
            assertThat(erased.get(0).earlier()).as("erased before").isPresent();
            assertThat(erased.get(1).content().words()).isEqualTo("payload, result");
            assertThat(harbour.run(run).payload()).isEmpty();
            assertThat(harbour.run(rerun).result()).isEmpty();
            assertThat(harbour.onRecord("ERASED")).isEqualTo(2);
            assertThatThrownBy(() -> harbour.orders.erase(TIDES, "customer-12"))
                    .hasMessageContaining("still waits for")
                    .hasMessageContaining("drop it");
            assertThatThrownBy(() -> harbour.orders.erase(TIDES, "nobody"))
                    .isInstanceOf(NotThereException.class)
                    .hasMessage("there is no one-off 'nobody' of 'tides' on record");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aRunIsCancelledWhereverItStands(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES));
            harbour.brume.start();
            long running = harbour.orders.runNow(TIDES).id();
            Run work = harbour.nextStarted();
            long waiting = harbour.orders.runNow(TIDES).id();
            assertThat(harbour.run(waiting).state()).contains(RunState.WAITING);
            assertThat(harbour.run(waiting).owed().note()).contains(RunRow.Owed.WAITED);
            assertThatThrownBy(() -> harbour.orders.rerun(running)).hasMessageContaining("has not ended yet");

            assertThat(harbour.orders.cancel(waiting)).isEqualTo(Cancelled.ENDED);
            assertThat(harbour.orders.cancel(running)).isEqualTo(Cancelled.ASKED);

            RunView stopped = harbour.ended(running);
            assertThat(work.stopAsked()).contains(StopReason.CANCELLED);
            assertThat(stopped.outcome()).contains(Outcome.CANCELLED);
            assertThat(stopped.reason()).contains(Reason.BY_HAND.name());
            assertThat(stopped.result()).contains("told CANCELLED");
            assertThat(harbour.ended(waiting).outcome()).contains(Outcome.CANCELLED);
            assertThat(harbour.ended(waiting).attempts()).isEmpty();
            assertThat(harbour.orders.cancel(running)).isEqualTo(Cancelled.ALREADY_ENDED);
            assertThat(harbour.orders.cancel(12_345)).isEqualTo(Cancelled.NO_SUCH_RUN);
            assertThat(harbour.onRecord("CANCEL_ORDERED")).isEqualTo(2);
            harbour.checkCounts();

            harbour.go.release();
            assertThat(harbour.ended(harbour.orders.runNow(TIDES).id()).outcome())
                    .as("the places are free again")
                    .contains(Outcome.SUCCEEDED);
        }
    }

    @ParameterizedTest
    @EnumSource
    void aPlannedPauseBeginsAndEndsByItselfOnEveryDatabase(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.go.release(1000);
            harbour.define(Job.named(TIDES)
                    .every(Duration.ofSeconds(1))
                    .ifMissed(IfMissed.runEach(50))
                    .ifBusy(IfBusy.alongside(9)));
            Instant from = harbour.brume
                    .history()
                    .now()
                    .truncatedTo(ChronoUnit.SECONDS)
                    .plusSeconds(3);
            Instant until = from.plusSeconds(3);
            Pause.Scope tides = Pause.Scope.of(JobName.parse("tides"));
            assertThat(harbour.orders.pause(
                            PauseOrder.of(tides).from(from).until(until).leavingOut()))
                    .isEqualTo(new PauseChange(true, 1));
            harbour.define(Job.named("dues").every(Duration.ofSeconds(1)));
            harbour.brume.start();
            harbour.await(() -> harbour.brume.history().runs(RunFilter.newest(1)).stream()
                    .anyMatch(run -> run.owed().planned().isAfter(until)));

            RunFilter all = RunFilter.newest(1000).of(JobName.parse("tides"));
            assertThat(harbour.brume.history().runs(all))
                    .anyMatch(run -> run.owed().planned().isBefore(from))
                    .anyMatch(run -> run.owed().planned().equals(until))
                    .noneMatch(run -> !run.owed().planned().isBefore(from)
                            && run.owed().planned().isBefore(until));
            assertThat(harbour.brume.history().spans(all))
                    .filteredOn(view -> view.span().reason().equals(Reason.PAUSED.name()))
                    .singleElement()
                    .satisfies(view -> {
                        assertThat(view.span().first()).isEqualTo(from);
                        assertThat(view.span().last()).isEqualTo(until.minusSeconds(1));
                        assertThat(view.span().count()).isEqualTo(3);
                    });
            assertThat(harbour.brume.history().past(from.plusMillis(1)).pauses())
                    .hasSize(1);
            assertThat(harbour.brume.history().past(until).pauses()).isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatIsPausedOwesNothingUntilItIsResumed(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            IfMissed none = IfMissed.skip().tolerance(Duration.ofSeconds(1));
            harbour.define(
                    Job.named(TIDES).every(Duration.ofSeconds(1)).tag("nightly").ifMissed(none));
            assertThat(harbour.orders.pause(Pause.Scope.tag("nightly"))).isEqualTo(new PauseChange(true, 1));
            Instant paused = harbour.brume.history().now();
            assertThat(harbour.orders.pause(Pause.Scope.tag("nightly"))).isEqualTo(new PauseChange(false, 0));
            harbour.define(Job.named("dues").every(Duration.ofSeconds(1)).tag("nightly"));
            assertThat(harbour.brume.history().jobs())
                    .allMatch(view -> view.row().paused() && view.row().nextAt().isEmpty());
            harbour.brume
                    .oneOffs()
                    .add(OneOff.of(TIDES, "due already").at(Instant.now().minusSeconds(60)));
            harbour.brume.start();
            harbour.go.release(1000);

            long byHand = harbour.orders.runNow(JobName.parse("dues")).id();
            assertThat(harbour.ended(byHand).outcome()).contains(Outcome.SUCCEEDED);
            harbour.await(() -> harbour.brume.history().runs(RunFilter.newest(10)).stream()
                    .anyMatch(run -> run.state().equals(Optional.of(RunState.WAITING))));
            Instant resumed = harbour.brume.history().now().plusSeconds(3);
            harbour.await(() -> harbour.brume.history().now().isAfter(resumed));
            assertThat(harbour.brume.history().runs(RunFilter.newest(10)))
                    .as("what was planned before the pause, the run by hand, and the one-off that waits")
                    .noneMatch(run -> run.owed().origin() == Origin.SCHEDULE
                            && run.owed().planned().isAfter(paused))
                    .hasSizeBetween(2, 3);

            assertThat(harbour.orders.resume(Pause.Scope.tag("nightly"))).isEqualTo(new PauseChange(true, 2));
            harbour.await(() -> harbour.brume.history().runs(RunFilter.newest(100)).stream()
                    .anyMatch(run -> run.owed().origin() == Origin.SCHEDULE
                            && run.job().equals(TIDES)
                            && run.owed().planned().isAfter(paused)
                            && run.outcome().isPresent()));

            assertThat(harbour.brume.history().spans(RunFilter.newest(10)))
                    .filteredOn(view -> view.job().equals(TIDES))
                    .map(SpanView::span)
                    .filteredOn(span -> span.reason().equals(Reason.PAUSED.name()))
                    .singleElement()
                    .satisfies(span -> assertThat(span.count()).isGreaterThanOrEqualTo(2));
            harbour.await(() -> harbour.brume.history().runs(RunFilter.newest(100)).stream()
                    .anyMatch(run -> run.owed().origin() == Origin.ONE_OFF
                            && run.outcome().isPresent()));
            assertThat(harbour.orders.resume(Pause.Scope.tag("nightly"))).isEqualTo(new PauseChange(false, 0));
            assertThatThrownBy(() -> harbour.orders.pause(Pause.Scope.of(JobName.parse("duess"))))
                    .hasMessage("there is no job 'duess'");
            assertThat(harbour.onRecord("PAUSED") + harbour.onRecord("RESUMED")).isEqualTo(2);
        }
    }

    @ParameterizedTest
    @EnumSource
    void theNextOccurrenceAloneIsLeftOut(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).cron("0 * * * *", "Atlantic/Azores"));
            Instant next =
                    harbour.brume.history().now().truncatedTo(ChronoUnit.HOURS).plus(1, ChronoUnit.HOURS);

            Optional<Occurrence> skipped = harbour.orders.skipNext(TIDES);

            assertThat(skipped.map(Occurrence::instant)).contains(next);
            assertThat(harbour.brume.history().runs(RunFilter.newest(10)))
                    .singleElement()
                    .satisfies(run -> {
                        assertThat(run.outcome()).contains(Outcome.SKIPPED);
                        assertThat(run.reason()).contains(Reason.BY_HAND.name());
                        assertThat(run.owed().planned()).isEqualTo(next);
                    });
            assertThat(harbour.brume.history().job(TIDES).orElseThrow().row().nextAt())
                    .contains(next.plus(1, ChronoUnit.HOURS));
            assertThat(harbour.orders.skipNext(TIDES).map(Occurrence::instant))
                    .contains(next.plus(1, ChronoUnit.HOURS));
            assertThat(harbour.onRecord("NEXT_SKIPPED")).isEqualTo(2);
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatNoRunWasMadeOfIsMadeUpForOnce(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).cron("0 * * * *", "UTC").ifBusy(IfBusy.alongside(2)));
            harbour.brume.start();
            harbour.go.release(1000);
            Instant until = harbour.brume.history().now().truncatedTo(ChronoUnit.HOURS);
            Instant from = until.minus(6, ChronoUnit.HOURS);

            assertThat(harbour.orders.missing(TIDES, from, until))
                    .extracting(Occurrence::instant)
                    .hasSize(6)
                    .startsWith(from)
                    .doesNotContain(until);
            List<Long> runs = harbour.orders.backfill(TIDES, from, until).stream()
                    .map(RunHandle::id)
                    .toList();

            assertThat(runs).hasSize(6);
            runs.forEach(run -> assertThat(harbour.ended(run).outcome()).contains(Outcome.SUCCEEDED));
            assertThat(harbour.run(runs.get(0)).owed().origin()).isEqualTo(Origin.BACKFILL);
            assertThat(harbour.orders.missing(TIDES, from, until)).isEmpty();
            assertThat(harbour.orders.backfill(TIDES, from, until)).isEmpty();
            assertThatThrownBy(() -> harbour.orders.missing(TIDES, from, until.plus(2, ChronoUnit.HOURS)))
                    .hasMessageContaining("still to come");
            assertThatThrownBy(() -> harbour.orders.missing(TIDES, until.minus(300, ChronoUnit.DAYS), until))
                    .hasMessageContaining("more than 1000");
            harbour.checkCounts();
        }
    }

    @ParameterizedTest
    @EnumSource
    void aNewerOccurrenceTakesThePlaceOfTheOneThatRuns(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.define(Job.named(TIDES).every(Duration.ofSeconds(1)).ifBusy(IfBusy.supersede()));
            harbour.brume.start();
            Run first = harbour.nextStarted();
            Run second = harbour.nextStarted();

            assertThat(first.stopAsked()).contains(StopReason.SUPERSEDED);
            RunView ended = harbour.ended(first.id());
            assertThat(ended.outcome()).contains(Outcome.CANCELLED);
            assertThat(ended.reason()).contains(Reason.SUPERSEDED.name());
            assertThat(second.planned()).isAfter(first.planned());
        }
    }
}
