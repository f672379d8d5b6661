package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.jdbc.JdbcStore;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.postgresql.ds.PGSimpleDataSource;

/** A real server that goes through a recovery begins a new history of itself, and with it a new epoch. */
class PostgresRestoreTest {
    @TempDir
    private Path folder;

    private EmbeddedPostgres server(int port) throws Exception {
        return EmbeddedPostgres.builder()
                .setDataDirectory(folder.resolve("data").toFile())
                .setCleanDataDirectory(false)
                .setServerConfig("restore_command", "false")
                .setPort(port)
                .start();
    }

    @Test
    void aRecoveredServerRaisesTheEpochAndTheRunningInstanceGoesOnInIt() throws Exception {
        BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        EmbeddedPostgres first = server(0);
        int port = first.getPort();
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(first.getJdbcUrl("postgres", "postgres"));
        JdbcStore store = JdbcStore.on(source);
        try (Brume brume = Brume.on(store)
                .instance("quay-1")
                .lease(Duration.ofSeconds(30))
                .engineListener(events::add)
                .build()) {
            brume.handler("note", run -> run.result(Long.toString(run.fence() >> 46)));
            brume.define(Job.named("tides")
                    .every(Duration.ofSeconds(1))
                    .handler("note")
                    .build());
            brume.start();
            await(events, Event.Kind.SUCCEEDED);
            first.close();
            Files.writeString(folder.resolve("data").resolve("recovery.signal"), "", StandardOpenOption.CREATE);

            try (EmbeddedPostgres second = server(port)) {
                assertThat(second.getPort()).isEqualTo(port);
                await(events, Event.Kind.LEASE_LOST);
                await(events, Event.Kind.SUCCEEDED);
                assertThat(store.<Long>transact(tx -> tx.sessions().epoch())).isEqualTo(1);
                assertThat(brume.stop(Duration.ofSeconds(10))).isTrue();
            }
        }
    }

    private static void await(BlockingQueue<Event> events, Event.Kind kind) throws InterruptedException {
        for (Event event = events.poll(60, TimeUnit.SECONDS); ; event = events.poll(60, TimeUnit.SECONDS)) {
            assertThat(event).as("an event " + kind + " in time").isNotNull();
            if (event.kind() == kind) {
                return;
            }
        }
    }
}
