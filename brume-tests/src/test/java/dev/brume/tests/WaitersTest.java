package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Handler;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.StoreException;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import dev.brume.testkit.WrappedStore;
import java.lang.reflect.Proxy;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** A run that comes to wait while an end is under way is let go when that end commits, on every database. */
class WaitersTest {
    private static final JobName DUES = JobName.parse("dues");

    /** An instance that would sweep only after ten minutes, so that no test is helped by that. */
    private static final class Office implements AutoCloseable {
        private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        private final Db.Fresh fresh;
        private final Brume brume;

        Office(Db db, IfBusy policy, Handler handler) {
            fresh = db.fresh();
            brume = Brume.on(fresh.store())
                    .instance("office")
                    .poll(Duration.ofMillis(100))
                    .engineListener(events::add)
                    .build();
            brume.handler("dues", handler);
            brume.define(Job.named("dues").handler("dues").ifBusy(policy).build());
            brume.start();
        }

        long runNow() {
            return brume.orders("anna", "").runNow(DUES).id();
        }

        void awaitEnd(long run) throws InterruptedException {
            for (Event event = next();
                    event.run().orElse(0) != run || event.outcome().isEmpty(); ) {
                event = next();
            }
        }

        private Event next() throws InterruptedException {
            Event event = events.poll(30, TimeUnit.SECONDS);
            assertThat(event).as("what happens next").isNotNull();
            return event;
        }

        List<RunView> runs() {
            return brume.history().runs(RunFilter.newest(1000));
        }

        @Override
        public void close() {
            brume.close();
            fresh.close();
        }
    }

    @ParameterizedTest
    @EnumSource
    void oneThatMeetsAGuardedCommitGoesWhenThatIsDone(Db db) throws Exception {
        CountDownLatch writing = new CountDownLatch(1);
        CountDownLatch go = new CountDownLatch(1);
        Handler handler = run -> run.commit(connection -> {
            writing.countDown();
            assertThat(go.await(30, TimeUnit.SECONDS)).isTrue();
        });
        try (Office office = new Office(db, IfBusy.skip(), handler)) {
            office.runNow();
            assertThat(writing.await(30, TimeUnit.SECONDS)).isTrue();
            long second = office.runNow();
            assertThat(office.brume.history().run(second).orElseThrow().state()).contains(RunState.WAITING);
            go.countDown();

            office.awaitEnd(second);
        }
    }

    /** Lets something happen after the live runs of a job are counted and before their ends are awaited. */
    private static final class InBetween extends WrappedStore {
        private final Runnable what;

        InBetween(Store store, Runnable what) {
            super(store);
            this.what = what;
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            return super.transact(tx -> steps.apply((Transaction) Proxy.newProxyInstance(
                    Transaction.class.getClassLoader(), new Class<?>[] {Transaction.class}, (proxy, method, args) -> {
                        if (method.getName().equals("await")) {
                            what.run();
                        }
                        return method.invoke(tx, args);
                    })));
        }
    }

    @ParameterizedTest
    @EnumSource
    void oneThatCountsARunWhichEndsBeforeItIsAwaitedGoes(Db db) throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        try (Office office = new Office(db, IfBusy.skip(), run -> go.await())) {
            long first = office.runNow();
            InBetween store = new InBetween(office.fresh.store(), () -> {
                go.countDown();
                // On H2 one transaction of Brume writes at a time, so there the end comes after this one.
                while (db != Db.H2
                        && office.brume
                                .history()
                                .run(first)
                                .orElseThrow()
                                .outcome()
                                .isEmpty()) {
                    Thread.onSpinWait();
                }
            });
            Brume desk = Brume.on(store).instance("desk").build();
            long second = desk.orders("anna", "").runNow(DUES).id();

            office.awaitEnd(second);
        }
    }

    @ParameterizedTest
    @EnumSource
    void noneIsLeftThoughOrdersAndEndsMeetAllTheTime(Db db) throws Exception {
        try (Office office = new Office(db, IfBusy.alongside(2), run -> {})) {
            long last = 0;
            for (int i = 0; i < 150; i++) {
                last = office.runNow();
            }
            office.awaitEnd(last);
            while (office.runs().stream().anyMatch(run -> run.outcome().isEmpty())) {
                Thread.onSpinWait();
            }
            assertThat(office.runs()).hasSize(150);
            assertThat(office.events).noneMatch(event -> event.kind() == Event.Kind.PROBLEM);
        }
    }

    @ParameterizedTest
    @EnumSource
    void oneThatWaitsForTheEndOfAPauseIsSkippedWhenItsJobIsDropped(Db db) {
        CountDownLatch go = new CountDownLatch(1);
        try (Office office = new Office(db, IfBusy.skip(), run -> go.await())) {
            office.brume.orders("anna", "").pause(Pause.Scope.of(DUES));
            office.brume.oneOffs().add(OneOff.of(DUES, "late").at(Instant.now()));
            while (office.runs().isEmpty()) {
                Thread.onSpinWait();
            }
            assertThat(office.runs().get(0).state()).contains(RunState.WAITING);
            office.brume.orders("anna", "").drop(DUES);

            assertThat(office.runs()).singleElement().satisfies(run -> {
                assertThat(run.outcome()).contains(Outcome.SKIPPED);
                assertThat(run.reason()).contains(Reason.JOB_DROPPED.name());
            });
        }
        go.countDown();
    }

    /** Cannot look at ends and notes. */
    private static final class Blind extends WrappedStore {
        Blind(Store store) {
            super(store);
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            return super.transact(tx -> steps.apply((Transaction) Proxy.newProxyInstance(
                    Transaction.class.getClassLoader(), new Class<?>[] {Transaction.class}, (proxy, method, args) -> {
                        if (method.getName().equals("takeUnsettled")) {
                            throw new StoreException(StoreException.Trouble.CONFLICT, "a stranger has it locked", null);
                        }
                        return method.invoke(tx, args);
                    })));
        }
    }

    @ParameterizedTest
    @EnumSource
    void anOrderWhoseNoteCannotBeLookedAtIsGivenAllTheSame(Db db) throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        try (Office office = new Office(db, IfBusy.waiting(5), run -> go.await())) {
            long first = office.runNow();
            office.brume.orders("anna", "").pause(Pause.Scope.of(DUES));
            long second = office.runNow();
            go.countDown();
            office.awaitEnd(first);
            assertThat(office.brume.history().run(second).orElseThrow().state()).contains(RunState.WAITING);
            BlockingQueue<Event> told = new LinkedBlockingQueue<>();
            try (Brume desk = Brume.on(new Blind(office.fresh.another()))
                    .instance("desk")
                    .engineListener(told::add)
                    .build()) {
                assertThat(desk.orders("ines", "").resume(Pause.Scope.of(DUES)).ordered())
                        .isTrue();
            }

            office.awaitEnd(second);
            assertThat(told)
                    .anySatisfy(event -> assertThat(event.text())
                            .contains("waiting runs could not be let go yet, the next round will"));
        }
    }
}
