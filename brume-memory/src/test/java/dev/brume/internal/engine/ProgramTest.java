package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.memory.MemoryStore;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Programs, what they start, and what is left of them. */
class ProgramTest {
    private final MemoryStore store = new MemoryStore(Instant::now);
    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
    private final Brume brume = Brume.on(store)
            .takesPrograms()
            .instance("quay-1")
            .workers(4)
            .poll(Duration.ofMillis(50))
            .engineListener(events::add)
            .build();

    @AfterEach
    void stop() throws InterruptedException {
        brume.stop(Duration.ofSeconds(5));
    }

    private static Job.Builder shell(String script) {
        return Job.named("tides").program("sh", "-c", script);
    }

    private RunView toEnd(Job.Builder job) throws InterruptedException {
        brume.define(job.build());
        brume.start();
        brume.orders("anna", "a try").runNow(job.name());
        for (Event event = next(); ; event = next()) {
            if (event.kind() == Event.Kind.SUCCEEDED || event.kind() == Event.Kind.FAILED) {
                return store.history().runs(RunFilter.newest(1)).get(0);
            }
        }
    }

    private Event next() throws InterruptedException {
        Event event = events.poll(30, TimeUnit.SECONDS);
        assertThat(event).as("an event").isNotNull();
        return event;
    }

    private static String printed(RunView run) {
        return run.outputs().get(1).text();
    }

    private static void awaitEnd(String pid) throws Exception {
        Optional<ProcessHandle> handle = ProcessHandle.of(Long.parseLong(pid.strip()));
        if (handle.isPresent()) {
            handle.get().onExit().get(30, TimeUnit.SECONDS);
        }
    }

    @Test
    void aChildThatKeepsThePipeKeepsNeitherTheRunNorItsReader() throws Exception {
        RunView run = toEnd(shell("sleep 600 & echo $!"));

        assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(Thread.getAllStackTraces().keySet())
                .extracting(Thread::getName)
                .noneMatch(name -> name.endsWith("-output"));
        ProcessHandle child =
                ProcessHandle.of(Long.parseLong(printed(run).strip())).orElseThrow();
        assertThat(child.isAlive()).as("what a program leaves on purpose stays").isTrue();
        child.destroyForcibly();
    }

    @Test
    void whoHasLostItsParentAndIgnoresTermIsKilledAtTheLimitToo() throws Exception {
        RunView run = toEnd(shell("(trap '' TERM; sh -c 'echo $$; while :; do sleep 1; done' &); sleep 600")
                .timeLimit(Duration.ofMillis(500)));

        assertThat(run.outcome()).contains(Outcome.TIMED_OUT);
        awaitEnd(printed(run));
    }

    @Test
    void aFactTooLongForAVariableGoesByAFile() throws Exception {
        String payload = "€".repeat(50_000);
        RunView run = toEnd(shell(
                        "echo ${BRUME_PAYLOAD-none}; wc -c < $BRUME_PAYLOAD_FILE; ls -l $BRUME_PAYLOAD_FILE; echo $BRUME_PAYLOAD_FILE")
                .payload(payload));

        assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
        String[] lines = printed(run).lines().toArray(String[]::new);
        assertThat(lines[0]).isEqualTo("none");
        assertThat(lines[1].strip()).isEqualTo("150000");
        assertThat(lines[2]).startsWith("-rw-------");
        assertThat(java.nio.file.Path.of(lines[3])).as("removed at the end").doesNotExist();
    }

    @Test
    void theLongestFactThatFitsIsAVariable() throws Exception {
        String payload = "€".repeat(43_685) + "xx";
        RunView run = toEnd(shell("printf %s \"$BRUME_PAYLOAD\" | wc -c; echo ${BRUME_PAYLOAD_FILE-none}")
                .payload(payload));

        assertThat(printed(run).lines().map(String::strip)).containsExactly("131057", "none");
    }

    @Test
    void aHandlerThatSwallowsTheInterruptOfItsLimitHasTimedOutAllTheSame() throws Exception {
        brume.define(Job.named("survey").timeLimit(Duration.ofMillis(100)), run -> {
            try {
                new java.util.concurrent.CountDownLatch(1).await();
            } catch (InterruptedException swallowed) {
                run.result("done, whatever they say");
            }
        });
        brume.start();
        brume.orders("anna", "a try").runNow(JobName.parse("survey"));
        for (Event event = next(); event.kind() != Event.Kind.FAILED; event = next()) {
            assertThat(event.kind()).isNotEqualTo(Event.Kind.SUCCEEDED);
        }
        RunView run = store.history().runs(RunFilter.newest(1)).get(0);

        assertThat(run.outcome()).contains(Outcome.TIMED_OUT);
        assertThat(run.lastAttempt().orElseThrow().error())
                .hasValueSatisfying(error -> assertThat(error).startsWith("stopped at its time limit"));
    }
}
