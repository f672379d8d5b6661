package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.RunState;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.spi.Ability;
import dev.brume.spi.Claim;
import dev.brume.spi.NewJob;
import dev.brume.spi.Numbers;
import dev.brume.spi.RunRelease;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** A guarded transaction whose process is cut off before its first step, its second, and so on to its last. */
@Tag("long")
class GuardedKillTest {
    private static final Instant PLANNED = Instant.parse("2026-05-04T06:00:00Z");

    private static int victim(Db db, String schema, LeaseKey lease, int step) throws Exception {
        String url = db == Db.POSTGRESQL ? Databases.postgresUrl() : Databases.mariadbUrl(schema);
        Process process = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-XX:TieredStopAtLevel=1",
                        "-Xshare:auto",
                        "-cp",
                        System.getProperty("java.class.path"),
                        GuardedVictim.class.getName(),
                        url,
                        db == Db.POSTGRESQL ? schema : "",
                        Long.toString(lease.run()),
                        lease.session().toString(),
                        Long.toString(lease.fence()),
                        Integer.toString(step))
                .inheritIO()
                .start();
        assertThat(process.waitFor(60, TimeUnit.SECONDS)).as("ended in time").isTrue();
        return process.exitValue();
    }

    private static LeaseKey leased(Db.Fresh fresh, long job, int step) {
        Numbers numbers = fresh.store().transact(tx -> tx.take(1));
        RunRow.Owed owed = RunRow.Owed.scheduled(job, PLANNED.plusSeconds(step), ZoneOffset.UTC);
        RunRow.Lease lease =
                new RunRow.Lease(UUID.randomUUID(), numbers.fences().get(0), PLANNED);
        RunRow run = RunRow.planned(numbers.ids().get(0), owed)
                .moved(RunState.RUNNING, owed.planned(), Optional.of(lease), List.of(), 1);
        fresh.store().transact(tx -> {
            tx.addRuns(List.of(run));
            return null;
        });
        return run.leaseKey();
    }

    /** What another instance does with the run of one that died. */
    private static LeaseKey takenOver(Db.Fresh fresh, LeaseKey lease) {
        UUID successor = UUID.randomUUID();
        return fresh.store().transact(tx -> {
            tx.release(List.of(new RunRelease(lease, 1, RunState.PLANNED, PLANNED, List.of(), Optional.empty())));
            Claim claim = new Claim(successor, 0, "main", Ability.NONE, Optional.empty(), 1, /* oldestFirst= */ false);
            return tx.claim(claim).get(0).leaseKey();
        });
    }

    /** The other server takes as long again, so it has its turn with the long proofs. */
    static List<Db> servers() {
        return Boolean.getBoolean("brume.proofs") ? List.of(Db.POSTGRESQL, Db.MARIADB) : List.of(Db.POSTGRESQL);
    }

    @ParameterizedTest
    @MethodSource("servers")
    void whereverItDiesWhatItWroteIsThereOnceAndWithItsEnd(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            fresh.sql("create table " + fresh.table("dues") + " (run bigint not null)");
            Job job = Job.named("dues").program("true").build();
            long id = fresh.store()
                    .transact(tx -> tx.addJobs(List.of(NewJob.plain(job, "test", PLANNED, Optional.empty()))))
                    .get(0);
            List<Boolean> written = new ArrayList<>();
            int exit = GuardedVictim.CUT_OFF;
            for (int step = 1; exit == GuardedVictim.CUT_OFF; step++) {
                LeaseKey lease = leased(fresh, id, step);
                exit = victim(db, fresh.place(), lease, step);
                // Waits until the server has noticed that the connection is dead.
                boolean live = fresh.store().transact(tx -> tx.holdLease(lease));
                boolean ended = fresh.store().transact(tx -> tx.ended(lease));
                long rows = dues(fresh, lease);

                assertThat(ended).as("step %s: ended", step).isNotEqualTo(live);
                assertThat(rows).as("step %s: rows", step).isEqualTo(ended ? 1 : 0);
                written.add(ended);
                if (live) {
                    GuardedVictim.commit(fresh.store(), takenOver(fresh, lease), fresh.table("dues"));
                    assertThat(dues(fresh, lease))
                            .as("step %s: rows in the end", step)
                            .isEqualTo(1);
                }
            }
            assertThat(exit).isZero();
            assertThat(written)
                    .as("kills before and after the commit")
                    .startsWith(false, false, false, false)
                    .endsWith(true, true);
            assertThat(fresh.number("select count(*) from " + fresh.table("brume_ledger")))
                    .isEqualTo(written.size());
        }
    }

    private static long dues(Db.Fresh fresh, LeaseKey lease) throws Exception {
        return fresh.number("select count(*) from " + fresh.table("dues") + " where run = " + lease.run());
    }
}
