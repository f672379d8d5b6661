package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Whoever may write to the tables orders what runs; what an instance does not take it leaves, whatever the tables say. */
class KindsOfWorkTest {
    @TempDir
    private Path folder;

    private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();

    private Brume.Builder instance(Db.Fresh fresh, String name) {
        return Brume.on(fresh.store())
                .instance(name)
                .lease(Duration.ofSeconds(10))
                .poll(Duration.ofMillis(100))
                .engineListener(events::add);
    }

    private Event await(Event.Kind kind, String text) throws InterruptedException {
        for (Event event = events.poll(30, TimeUnit.SECONDS);
                event != null;
                event = events.poll(30, TimeUnit.SECONDS)) {
            if (event.kind() == kind && event.text().contains(text)) {
                return event;
            }
        }
        throw new AssertionError("no " + kind + " with '" + text + "' came");
    }

    private static RunView newest(Brume brume, String job) {
        return brume.history().runs(RunFilter.newest(1).of(JobName.parse(job))).get(0);
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void anApplicationLeavesProgramsToInstancesThatTakeThem(Db db) throws Exception {
        Path trace = folder.resolve("ran");
        try (Db.Fresh fresh = db.fresh();
                Brume application = instance(fresh, "application").build()) {
            application.handler("tides", run -> {});
            application.define(Job.named("shell")
                    .program("sh", "-c", "echo ran > '" + trace + "'")
                    .build());
            application.define(Job.named("tides").handler("tides").build());
            application.start();
            application.orders("ines", "").runNow(JobName.parse("shell"));
            application.orders("ines", "").runNow(JobName.parse("tides"));
            await(Event.Kind.SUCCEEDED, "");

            assertThat(newest(application, "shell").state()).contains(RunState.PLANNED);

            // The row asks for nothing, as one may that somebody else has written.
            fresh.sql("update " + fresh.table("brume_run") + " set handler = null");
            await(Event.Kind.PROBLEM, "main/shell".substring(5) + " needs an instance that takes programs");
            application.orders("ines", "").runNow(JobName.parse("tides"));
            await(Event.Kind.SUCCEEDED, "");
            assertThat(trace).doesNotExist();

            try (Brume taking =
                    instance(fresh, "taking").takesPrograms().takesRequests().build()) {
                taking.start();
                await(Event.Kind.SUCCEEDED, "");
                assertThat(newest(application, "shell").lastAttempt())
                        .hasValueSatisfying(
                                attempt -> assertThat(attempt.instance()).isEqualTo("taking"));
                assertThat(trace).exists();
            }
        }
    }

    @Test
    void aServingCommandTakesAllUnlessItIsForbidden() throws Exception {
        Files.writeString(
                folder.resolve("harbour.yaml"),
                "jobs:\n  buoys:\n    when: {every: 1s}\n    work: {program: [sh, -c, 'echo read > ran']}\n");
        try (BrumeProcess serve = BrumeProcess.serve(folder, Map.of(), "--no-programs", "--format", "json")) {
            serve.await(BrumeProcess.kind("PROBLEM"));
            String why = Commands.run(folder, "why", "buoys").out();
            assertThat(why).contains("no live instance").contains("takes programs");
            serve.terminate();
            assertThat(serve.result().err())
                    .contains("is a program, which this instance does not take (--no-programs)");
        }
        assertThat(folder.resolve("ran")).doesNotExist();
    }
}
