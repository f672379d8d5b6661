package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.Outcome;
import dev.brume.PayloadType;
import dev.brume.RunResult;
import dev.brume.memory.MemoryStore;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What goes around attempts, which threads carry them out, and what they answer. */
class AroundAttemptsTest {
    private static final Duration LONG = Duration.ofSeconds(60);
    private static final PayloadType<Integer> NUMBER =
            new PayloadType<>("number", Integer::valueOf, value -> value.toString());

    private final MemoryStore store = new MemoryStore();
    private final List<String> seen = new CopyOnWriteArrayList<>();
    private final ThreadLocal<String> tenant = new ThreadLocal<>();
    private Brume brume = builder().build();

    private Brume.Builder builder() {
        return Brume.on(store).instance("quay-1").poll(Duration.ofMillis(100)).withoutLog();
    }

    @AfterEach
    void close() {
        brume.close();
    }

    private RunResult run(String job, String payload) throws Exception {
        return brume.orders("anna", "").runNow(JobName.parse(job), payload).await(LONG);
    }

    private void define(String name) {
        brume.define(Job.named(name).tag("tides"), run -> seen.add("work of " + tenant.get()));
    }

    @Test
    void interceptorsGoAroundAttemptsInTheirOrder() throws Exception {
        brume.around("tenant", JobScope.ALL, (run, attempt) -> {
            tenant.set(run.payload().orElse(""));
            try {
                attempt.proceed();
            } finally {
                tenant.remove();
                seen.add("outside again");
            }
        });
        brume.around("trace", JobScope.tag("tides"), (run, attempt) -> {
            seen.add("trace begins for " + tenant.get());
            attempt.proceed();
            seen.add("trace ends");
        });
        brume.around("others", JobScope.job("other"), (run, attempt) -> seen.add("never"));
        define("tables");
        brume.start();

        assertThat(run("tables", "ferry").outcome()).isEqualTo(Outcome.SUCCEEDED);
        assertThat(seen).containsExactly("trace begins for ferry", "work of ferry", "trace ends", "outside again");
    }

    @Test
    void anInterceptorThatThrowsOrDoesNotGoOnFailsTheAttempt() throws Exception {
        AtomicInteger calls = new AtomicInteger();
        brume.around("guard", JobScope.job("guarded"), (run, attempt) -> {
            if (calls.incrementAndGet() == 1) {
                throw new SecurityException("no such tenant");
            }
            attempt.proceed();
        });
        brume.around("lazy", JobScope.job("lazy"), (run, attempt) -> {});
        brume.around("eager", JobScope.job("eager"), (run, attempt) -> {
            attempt.proceed();
            attempt.proceed();
        });
        brume.define(
                Job.named("guarded").ifFailed(IfFailed.attempts(2, Duration.ZERO)), run -> seen.add("work of guarded"));
        define("lazy");
        define("eager");
        brume.start();

        assertThat(run("guarded", "").outcome()).isEqualTo(Outcome.SUCCEEDED);
        assertThat(calls).as("the attempts that it went around").hasValue(2);
        assertThat(run("lazy", "").error().orElseThrow())
                .contains("interceptor 'lazy' returned without proceeding, so that the work was not done");
        assertThat(run("eager", "").error().orElseThrow())
                .contains("interceptor 'eager' proceeds with an attempt for the second time");
        assertThat(seen).containsExactly("work of guarded", "work of null");
    }

    @Test
    void aLanesWorkIsDoneByTheApplicationsExecutor() throws Exception {
        ExecutorService own = Executors.newFixedThreadPool(2, task -> new Thread(task, "the-applications"));
        AtomicInteger rejected = new AtomicInteger();
        brume.close();
        brume = builder()
                .lane("main", 2, own)
                .lane("odd", 1, task -> {
                    if (rejected.incrementAndGet() <= 2) {
                        throw new RejectedExecutionException("full");
                    }
                    own.execute(task);
                })
                .lane("direct", 1, Runnable::run)
                .build();
        brume.define(Job.named("main"), run -> run.result(Thread.currentThread().getName()));
        brume.define(
                Job.named("odd").lane("odd"),
                run -> run.result(Thread.currentThread().getName()));
        brume.define(Job.named("direct").lane("direct"), run -> seen.add("on the instance's own thread"));
        brume.start();
        try {
            assertThat(run("main", "").value()).contains("the-applications");
            assertThat(run("odd", "").value()).as("handed back and taken again").contains("the-applications");
            assertThat(rejected).hasValue(3);
            long direct =
                    brume.orders("anna", "").runNow(JobName.parse("direct")).id();
            assertThat(run("main", "").outcome()).isEqualTo(Outcome.SUCCEEDED);
            assertThat(brume.history().run(direct).orElseThrow().outcome()).isEmpty();
            assertThat(seen).isEmpty();
        } finally {
            brume.stop(Duration.ZERO);
            own.shutdown();
        }
    }

    @Test
    void workIsDoneOnVirtualThreadsWhereTheRuntimeHasThem() throws Exception {
        brume.close();
        brume = builder().workers(2).virtualThreads().build();
        brume.define(
                Job.named("light"),
                run -> run.result(Thread.currentThread().getClass().getSimpleName() + " "
                        + Thread.currentThread().getName()));
        brume.start();

        String kind = Runtime.version().feature() >= 21 ? "VirtualThread" : "Thread";
        assertThat(run("light", "").value()).contains(kind + " brume-quay-1-main-1");
    }

    @Test
    void handlersAnswerWhoeverOrderedTheRun() throws Exception {
        brume.answering("word", run -> run.payload().map(String::toUpperCase).orElse(null));
        brume.answering("twice", NUMBER, NUMBER, (run, number) -> number == 0 ? null : 2 * number);
        brume.define(Job.named("word").handler("word").build());
        brume.define(Job.named("twice").handler("twice").payloadType("number").build());
        brume.define(Job.named("half"), NUMBER, (run, number) -> run.result(Integer.toString(number / 2)));
        brume.start();

        assertThat(run("half", "42").value(NUMBER)).contains(21);
        assertThat(run("word", "fog").value()).contains("FOG");
        assertThat(run("twice", "21").value(NUMBER)).contains(42);
        assertThat(run("twice", "0").value(NUMBER)).isEmpty();
        assertThat(run("twice", "x").error().orElseThrow()).contains("cannot be read as number");
    }
}
