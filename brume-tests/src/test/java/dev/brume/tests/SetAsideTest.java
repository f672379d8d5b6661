package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.ChangeFilter;
import dev.brume.history.RunFilter;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.why.Question;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What is bad in the tables is set aside alone, on every database: the others go on, and it can be changed and dropped. */
@Timeout(value = 90, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
class SetAsideTest {
    private static final JobName BAD = JobName.parse("bad");

    /** Ten plain jobs each second, and one that is to go bad. */
    private static final class Harbour implements AutoCloseable {
        private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        private final Db.Fresh fresh;
        private final Brume brume;

        Harbour(Db db) {
            fresh = db.fresh();
            brume = Brume.on(fresh.store())
                    .instance("quay-1")
                    .poll(Duration.ofMillis(100))
                    .engineListener(events::add)
                    .build();
            brume.handler("work", run -> {
                if (run.payload().isPresent()) {
                    run.result("from \0 to \uD83D");
                    run.print("half \uDE00 and \0");
                }
            });
            List<Job> jobs = new ArrayList<>();
            for (int i = 0; i < 10; i++) {
                jobs.add(plain("buoy-" + i).build());
            }
            jobs.add(plain(BAD.name()).build());
            brume.define(jobs, "test");
        }

        static Job.Builder plain(String name) {
            return Job.named(name).every(Duration.ofSeconds(1)).handler("work").ifBusy(IfBusy.alongside(4));
        }

        Event await(Predicate<Event> wanted) throws InterruptedException {
            List<Event> seen = new ArrayList<>();
            for (Event event = events.poll(30, TimeUnit.SECONDS);
                    event != null && seen.size() < 10_000;
                    event = events.poll(30, TimeUnit.SECONDS)) {
                if (wanted.test(event)) {
                    return event;
                }
                seen.add(event);
            }
            throw new AssertionError(
                    "waited in vain; last " + seen.subList(Math.max(0, seen.size() - 20), seen.size()));
        }

        static Predicate<Event> ended(String job) {
            return event -> event.kind() == Event.Kind.SUCCEEDED
                    && event.job().filter(JobName.parse(job)::equals).isPresent();
        }

        void damageDefinition() throws Exception {
            fresh.withoutGuard("brume_definition");
            fresh.sql("update " + fresh.table("brume_definition")
                    + " set definition = '{\"when\": [ garbage' where job_id =" + " (select id from "
                    + fresh.table("brume_job") + " where live_key = 'main/bad')");
        }

        @Override
        public void close() {
            brume.close();
            fresh.close();
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aDamagedDefinitionHoldsUpNobodyAndCanBeReplacedAndDropped(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.damageDefinition();
            harbour.brume.start();
            Event problem = harbour.await(
                    event -> event.kind() == Event.Kind.PROBLEM && event.text().contains("job bad"));
            assertThat(problem.text()).contains("is set aside, the others go on");
            harbour.events.clear();
            for (int i = 0; i < 10; i++) {
                harbour.await(Harbour.ended("buoy-" + i));
            }

            Instant now = harbour.brume.history().now();
            assertThat(harbour.brume.history().jobs()).as("all are listed").hasSize(11);
            assertThat(new Checkup(harbour.brume.history(), now, "", Instant::toString)
                            .look()
                            .findings())
                    .anySatisfy(finding -> {
                        assertThat(finding.topic()).isEqualTo("set aside");
                        assertThat(finding.about()).isEqualTo("bad");
                    });
            assertThat(new Question(
                                    harbour.brume.history(),
                                    harbour.brume.history().job(BAD).orElseThrow(),
                                    now,
                                    Instant::toString)
                            .aboutNow()
                            .sentence())
                    .startsWith("It cannot be planned and has been set aside since")
                    .contains("cannot be read");

            harbour.events.clear();
            harbour.brume.define(Harbour.plain("bad").build());
            harbour.await(Harbour.ended("bad"));
            harbour.damageDefinition();
            assertThat(harbour.brume.drop(BAD)).isTrue();
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatWorkLeavesBehindIsWrittenWhateverItHolds(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.brume.define(Job.named("odd").handler("work").build());
            harbour.brume.start();
            harbour.brume
                    .oneOffs()
                    .add(OneOff.of(JobName.parse("odd"), "once")
                            .at(Instant.EPOCH.plus(Duration.ofDays(20_000)))
                            .payload("odd"));
            harbour.await(Harbour.ended("odd"));

            assertThat(harbour.brume.history().runs(RunFilter.newest(10).of(JobName.parse("odd"))))
                    .singleElement()
                    .satisfies(run -> {
                        assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
                        assertThat(run.result()).contains("from \uFFFD to \uFFFD");
                    });
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void anEndThatCannotBeSettledHoldsUpNoOther(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.fresh.sql("insert into " + harbour.fresh.table("brume_settle")
                    + " (run_id, job_id, version, outcome, ended_at, gates) select 0, id, 1, 'SUCCEEDED', "
                    + (db == Db.MARIADB ? "utc_timestamp(6)" : "current_timestamp") + ", 'rubbish' from "
                    + harbour.fresh.table("brume_job") + " where live_key = 'main/bad'");
            harbour.brume.start();
            harbour.await(event -> event.kind() == Event.Kind.PROBLEM);
            harbour.events.clear();
            for (int round = 0; round < 3; round++) {
                for (int i = 0; i < 10; i++) {
                    harbour.await(Harbour.ended("buoy-" + i));
                }
            }
            assertThat(harbour.fresh.number("select count(*) from " + harbour.fresh.table("brume_settle")))
                    .as("others are settled meanwhile")
                    .isLessThan(20);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatCouldNotBeCountedIsOnRecordAsSuch(Db db) throws Exception {
        try (Harbour harbour = new Harbour(db)) {
            harbour.damageDefinition();
            harbour.brume.define(Harbour.plain("bad").build());

            assertThat(harbour.fresh.number("select count(*) from " + harbour.fresh.table("brume_span")
                            + " where reason = '" + Reason.UNCOUNTED + "'"))
                    .isEqualTo(1);
            assertThat(harbour.brume.history().changes(ChangeFilter.newest(5).of(BAD)))
                    .extracting(change -> change.change().kind())
                    .contains("CHANGED");
        }
    }
}
