package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;
import java.time.Duration;

/** A job in plain Java: defined, run, and read back, on the embedded database. */
public final class TideTables {
    private TideTables() {}

    /** Runs until it is stopped; the folder may be given as an argument. */
    public static void main(String[] args) throws InterruptedException {
        Path folder = Path.of(args.length > 0 ? args[0] : "tide-data");
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder, EmbeddedDatabase.Role.HOST);
                Brume brume =
                        Brume.on(JdbcStore.on(database)).instance("office").build()) {
            brume.define(
                    Job.named("tide-tables")
                            .cron("15 4 * * *", "Atlantic/Azores")
                            .every(Duration.ofSeconds(10))
                            .ifFailed(IfFailed.attempts(3, Duration.ofSeconds(30))),
                    run -> run.print("High water at Merrow, as planned at " + run.plannedLocal()));
            brume.start();
            Thread.currentThread().join();
        }
    }
}
