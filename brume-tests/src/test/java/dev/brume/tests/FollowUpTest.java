package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Run;
import dev.brume.history.OneOffFilter;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Jobs that follow the ends of others, on every database. */
class FollowUpTest {
    private static final JobName MANIFESTS = JobName.parse("manifests");

    /** What a run saw of the one that it follows. */
    private record Seen(String job, Run run, Optional<Run.Parent> parent) {}

    /** One instance; work succeeds with its payload as the result, unless that says otherwise. */
    private static final class Harbour implements AutoCloseable {
        private final BlockingQueue<Seen> seen = new LinkedBlockingQueue<>();
        private final BlockingQueue<Event> problems = new LinkedBlockingQueue<>();
        private final Db.Fresh fresh;
        private final Brume brume;

        Harbour(Db db) {
            fresh = db.fresh();
            brume = Brume.on(fresh.store())
                    .instance("quay-1")
                    .poll(Duration.ofMillis(100))
                    .engineListener(event -> {
                        if (event.kind() == Event.Kind.PROBLEM) {
                            problems.add(event);
                        }
                    })
                    .build();
            brume.handler("work", this::work);
        }

        private void work(Run run) {
            seen.add(new Seen(run.job().toString(), run, run.parent()));
            String payload = run.payload().orElse("");
            if (payload.equals("sink")) {
                throw new IllegalStateException("sunk");
            }
            run.result(payload);
        }

        static Job.Builder job(String name) {
            return Job.named(name).handler("work");
        }

        Seen next() throws InterruptedException {
            Seen next = seen.poll(30, TimeUnit.SECONDS);
            assertThat(next).as("a run that starts").isNotNull();
            return next;
        }

        @Override
        public void close() {
            brume.close();
            fresh.close();
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatFollowsIsGivenTheResultAndGoesByTheWayThatTheRunEnded(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.brume.define(
                    List.of(
                            Harbour.job("manifests")
                                    .followUp(FollowUp.On.SUCCESS, "dues")
                                    .followUp(FollowUp.On.FAILURE, "warden")
                                    .build(),
                            Harbour.job("dues")
                                    .followUp(FollowUp.On.END, "board")
                                    .build(),
                            Harbour.job("warden").build(),
                            Harbour.job("board").build()),
                    "harbour.yaml");
            harbour.brume.start();

            long first = harbour.brume
                    .orders("anna", "")
                    .runNow(MANIFESTS, "17 cars")
                    .id();
            assertThat(harbour.next().job()).isEqualTo("manifests");
            Seen dues = harbour.next();
            Seen board = harbour.next();
            long second =
                    harbour.brume.orders("anna", "").runNow(MANIFESTS, "sink").id();
            assertThat(harbour.next().job()).isEqualTo("manifests");
            Seen warden = harbour.next();

            assertThat(dues.job()).isEqualTo("dues");
            assertThat(dues.run().origin()).isEqualTo(Origin.FOLLOW_UP);
            assertThat(dues.parent())
                    .contains(new Run.Parent(first, MANIFESTS, Outcome.SUCCEEDED, Optional.of("17 cars")));
            assertThat(board.job()).isEqualTo("board");
            assertThat(board.parent().map(Run.Parent::run)).contains(dues.run().id());
            assertThat(warden.job()).isEqualTo("warden");
            assertThat(warden.parent()).contains(new Run.Parent(second, MANIFESTS, Outcome.FAILED, Optional.empty()));
            assertThat(harbour.brume.history().oneOffs(OneOffFilter.first(10))).isEmpty();
            harbour.brume.close();
            List<RunView> runs = harbour.brume.history().runs(RunFilter.newest(10));
            assertThat(runs)
                    .extracting(run -> run.owed().parent().orElse(0L))
                    .contains(first, second, dues.run().id());
            assertThat(runs).hasSize(5);
            assertThat(harbour.fresh.number("select count(*) from " + harbour.fresh.table("brume_one_off")))
                    .as("orders that were carried out leave nothing behind")
                    .isZero();
        }
    }

    @ParameterizedTest
    @EnumSource
    void ringsAndUnknownJobsAreRefusedWhereverTheRestOfTheRingIs(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.brume.define(Harbour.job("board").build());
            harbour.brume.define(
                    Harbour.job("dues").followUp(FollowUp.On.END, "board").build());
            harbour.brume.define(Harbour.job("manifests")
                    .followUp(FollowUp.On.SUCCESS, "dues")
                    .build());

            assertThatThrownBy(() -> harbour.brume.define(Harbour.job("board")
                            .followUp(FollowUp.On.FAILURE, "manifests")
                            .build()))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessage("followUps: board -> manifests -> dues -> board would never end");
            assertThatThrownBy(() -> harbour.brume.define(Harbour.job("board")
                            .followUp(FollowUp.On.END, "night/lamps")
                            .build()))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("job board: followUps: there is no job 'night/lamps'");
            harbour.brume.define(Harbour.job("dues").build());
            harbour.brume.define(Harbour.job("board")
                    .followUp(FollowUp.On.FAILURE, "manifests")
                    .build());
            assertThat(harbour.brume
                            .history()
                            .job(JobName.parse("board"))
                            .orElseThrow()
                            .job()
                            .followUps())
                    .containsExactly(new FollowUp(FollowUp.On.FAILURE, MANIFESTS));
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatShouldFollowButWasDroppedIsReportedAndOnRecord(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.brume.define(
                    List.of(
                            Harbour.job("manifests")
                                    .followUp(FollowUp.On.END, "dues")
                                    .build(),
                            Harbour.job("dues").build()),
                    "harbour.yaml");
            harbour.brume.drop(JobName.parse("dues"));
            harbour.brume.start();

            harbour.brume.orders("anna", "").runNow(MANIFESTS);

            Event problem = harbour.problems.poll(30, TimeUnit.SECONDS);
            assertThat(problem).isNotNull();
            assertThat(problem.text()).contains("should be followed by dues, which is not defined any more");
            assertThat(harbour.fresh.number("select count(*) from " + harbour.fresh.table("brume_change")
                            + " where kind = 'NOT_FOLLOWED'"))
                    .isEqualTo(1);
        }
    }
}
