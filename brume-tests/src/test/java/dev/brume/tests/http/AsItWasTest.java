package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunHandle;
import dev.brume.RunState;
import dev.brume.history.Gate;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.past.AsItWas;
import dev.brume.insight.why.Answer;
import dev.brume.insight.why.Question;
import dev.brume.tests.Stores;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** The record as it stood: looked at while it stood so, and worked out later, on each database and over HTTP. */
class AsItWasTest {
    private static final JobName DUES = JobName.parse("harbour/dues");
    private static final JobName FEES = JobName.parse("harbour/fees");
    private static final JobName LAMPS = JobName.parse("harbour/lamps");

    private static Job dues(int priority) {
        return Job.named(DUES)
                .cron("15 4 * * *", "UTC")
                .handler("dues")
                .priority(priority)
                .exclusive("till")
                .build();
    }

    /** An instant that is later than all that was done before, and earlier than all that is done after. */
    private static Instant moment(History history) {
        Instant before = history.now();
        Instant now = history.now();
        while (!now.isAfter(before.plusMillis(2))) {
            now = history.now();
        }
        Instant at = now;
        while (!now.isAfter(at.plusMillis(2))) {
            now = history.now();
        }
        return at;
    }

    private static RunState state(History history, RunHandle run) {
        return history.run(run.id()).flatMap(RunView::state).orElseThrow();
    }

    private static int taken(History history) {
        return history.gates().stream().mapToInt(Gate::used).sum();
    }

    @ParameterizedTest
    @EnumSource(Stores.class)
    void whatWasIsWorkedOutOfWhatIsOnRecord(Stores stores) throws Exception {
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch goOn = new CountDownLatch(1);
        try (Stores.Shared shared = stores.shared();
                Brume brume = Brume.on(shared.store())
                        .withoutLog()
                        .instance("quay-1")
                        .poll(Duration.ofMillis(50))
                        .build()) {
            brume.handler("dues", run -> {
                begun.countDown();
                goOn.await();
                run.result("paid");
            });
            History history = brume.history();
            Instant empty = moment(history);
            brume.define(dues(3));
            brume.define(Job.named(LAMPS).handler("dues").tag("light").build());
            Instant defined = moment(history);
            brume.start();
            RunHandle run = brume.orders("ines", "").runNow(DUES);
            begun.await();
            RunHandle behind = brume.orders("ines", "").runNow(DUES);
            Instant running = moment(history);
            brume.define(dues(7));
            brume.orders("rui", "fog").pause(Pause.Scope.tag("light"));
            goOn.countDown();
            run.ended().toCompletableFuture().join();
            behind.ended().toCompletableFuture().join();
            Instant ended = moment(history);
            brume.orders("rui", "").rename(DUES, FEES);
            brume.orders("rui", "").resume(Pause.Scope.tag("light"));
            brume.orders("rui", "").drop(LAMPS);
            Instant renamed = moment(history);

            assertThat(AsItWas.of(history, empty).jobs()).isEmpty();
            assertThat(AsItWas.of(history, empty).sessions(true)).isEmpty();
            assertThat(AsItWas.of(history, defined).jobs())
                    .extracting(JobView::name)
                    .containsExactly(DUES, LAMPS);
            assertThat(AsItWas.of(history, defined).runs(RunFilter.newest(10))).isEmpty();

            AsItWas then = AsItWas.of(history, running);
            assertThat(state(then, run)).isEqualTo(RunState.RUNNING);
            assertThat(state(then, behind)).isEqualTo(RunState.WAITING);
            assertThat(then.runs(RunFilter.newest(10).of(DUES).withState(RunState.RUNNING)))
                    .extracting(RunView::id, RunView::job)
                    .containsExactly(org.assertj.core.groups.Tuple.tuple(run.id(), DUES));
            assertThat(then.job(DUES).orElseThrow().row().version()).isEqualTo(1);
            assertThat(then.job(DUES).orElseThrow().job().priority()).isEqualTo(3);
            assertThat(then.job(DUES).orElseThrow().row().waiting()).isEqualTo(1);
            assertThat(then.job(FEES)).isEmpty();
            assertThat(taken(then)).isEqualTo(1);
            assertThat(then.sessions(false)).hasSize(1);
            assertThat(then.sessions(false).get(0).runs()).isEqualTo(1);
            assertThat(then.pauses()).isEmpty();
            Answer why = new Question(then, then.job(DUES).orElseThrow(), running, Instant::toString).aboutNow();
            assertThat(why.sentence()).startsWith("It is running: run " + run.id() + " on quay-1");

            AsItWas later = AsItWas.of(history, ended);
            assertThat(later.jobs(JobFilter.first(10).thatArePaused()))
                    .extracting(JobView::name)
                    .containsExactly(LAMPS);
            assertThat(later.run(run.id()).flatMap(RunView::outcome)).contains(Outcome.SUCCEEDED);
            assertThat(later.job(DUES).orElseThrow().row().version()).isEqualTo(2);
            assertThat(later.job(DUES).flatMap(JobView::lastEnd).orElseThrow().outcome())
                    .isEqualTo(Outcome.SUCCEEDED);
            assertThat(taken(later)).isZero();

            assertThat(AsItWas.of(history, renamed).jobs())
                    .extracting(JobView::name)
                    .containsExactly(FEES);
            assertThatThrownBy(() -> AsItWas.of(history, history.now().plusSeconds(60)))
                    .hasMessageContaining("is still to come");

            overHttp(brume, running, run);
        }
    }

    private static void overHttp(Brume brume, Instant running, RunHandle run) {
        try (Web web = Web.over(brume)) {
            Web.Said jobs = web.get("/jobs?asOf=" + running).is(200);
            assertThat(jobs.header("Brume-As-Of")).isEqualTo(running.toString());
            assertThat(jobs.list())
                    .extracting(job -> ((Map<?, ?>) job).get("job"))
                    .isEqualTo(List.of(DUES.toString(), LAMPS.toString()));
            assertThat(web.get("/runs/" + run.id() + "?asOf=" + running).is(200).map())
                    .containsEntry("state", "RUNNING")
                    .containsEntry("outcome", null)
                    .containsEntry("result", null);
            assertThat(web.get("/runs?state=RUNNING&asOf=" + running).is(200).list())
                    .hasSize(1);
            assertThat(web.get("/jobs/harbour/dues/why?asOf=" + running).is(200).map())
                    .containsEntry("code", "RUNNING");
            assertThat(web.get("/instances?asOf=" + running).is(200).body()).contains("\"runs\":1");
            assertThat(web.get("/limits?asOf=" + running).is(200).body()).contains("\"taken\":1");
            assertThat(web.get("/jobs?asOf=2099-01-01T00:00:00Z").is(400).body())
                    .contains("is still to come");
            assertThat(web.get("/tally?asOf=" + running).is(400).body()).contains("unknown parameter 'asOf'");
        }
    }
}
