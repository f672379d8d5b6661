package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.OneOff;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.history.ChangeFilter;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.insight.seal.SealCheck;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.RetentionSteps.Removed;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The months that the ledger lies in on PostgreSQL: how they come, and how they go. */
class LedgerMonthsTest {
    private static final JobName TIDES = JobName.parse("tides");
    private static final Keep BOUND = Keep.upTo(Duration.ofDays(320));

    private Db.Fresh fresh;
    private Brume brume;
    private Instant oldest;
    /** From where on the bound keeps whole months. */
    private Instant kept;

    /** A line a day of the fourteen months before this one, a one-off at their beginning. */
    @BeforeEach
    void fill() throws Exception {
        fresh = Db.POSTGRESQL.fresh();
        brume = Brume.on(fresh.store()).takesPrograms().instance("office").build();
        brume.define(Job.named(TIDES).program("true").build());
        long job = brume.history().job(TIDES).orElseThrow().row().id();
        Instant now = brume.history().now();
        ZonedDateTime month =
                now.atZone(ZoneOffset.UTC).truncatedTo(ChronoUnit.DAYS).withDayOfMonth(1);
        oldest = month.minusMonths(14).toInstant();
        kept = now.minus(BOUND.age().orElseThrow())
                .atZone(ZoneOffset.UTC)
                .truncatedTo(ChronoUnit.DAYS)
                .withDayOfMonth(1)
                .toInstant();
        assertThat(addMonths(oldest, month.minusMonths(1).toInstant())).isEqualTo(14);
        List<LedgerLine> lines = new ArrayList<>();
        fresh.store().transact(tx -> {
            lines.add(line(tx.take(1).ids().get(0), job, oldest, Origin.ONE_OFF));
            for (Instant day = oldest; day.isBefore(now); day = day.plus(1, ChronoUnit.DAYS)) {
                lines.add(line(tx.take(1).ids().get(0), job, day, Origin.SCHEDULE));
            }
            tx.addLines(lines);
            return null;
        });
        fresh.sql("insert into " + fresh.table("brume_one_off")
                + " (id, job_id, one_off_key, due_at, ordered_by, made) values ("
                + lines.get(0).run() + ", " + job
                + ", 'spring', '" + oldest + "', 'ines', 1)");
        fresh.sql("insert into " + fresh.table("brume_output") + " (run_id, planned_at, attempt, body, bytes, omitted)"
                + " select run_id, planned_at, 1, 'high water', 10, 0 from " + fresh.table("brume_ledger"));
    }

    private static LedgerLine line(long run, long job, Instant planned, Origin origin) {
        String slot = origin == Origin.ONE_OFF ? RunRow.Owed.slotOf(run, "spring") : "";
        return new LedgerLine(
                run,
                new RunRow.Owed(
                        job,
                        planned,
                        slot,
                        origin,
                        LocalDateTime.ofInstant(planned, ZoneOffset.UTC),
                        "UTC",
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty()),
                1,
                "main",
                planned,
                Outcome.SUCCEEDED,
                Optional.empty(),
                List.of(),
                Optional.of("pier 7"),
                Optional.of("3.1 m"));
    }

    private int addMonths(Instant from, Instant until) {
        return fresh.store().transact(tx -> tx.retention().addMonths(from, until));
    }

    private long linesBefore(Instant instant) throws Exception {
        return fresh.number(
                "select count(*) from " + fresh.table("brume_ledger") + " where planned_at < '" + instant + "'");
    }

    @AfterEach
    void close() {
        brume.close();
        fresh.close();
    }

    @Test
    void aMonthBeyondTheBoundGoesWholeAndSealsTallyAndKeysKnow() throws Exception {
        brume.orders("auditor", "").seal();
        brume.orders("ines", "").keep(BOUND);
        long old = linesBefore(kept);
        List<RunView> lines = brume.history().lines(0, IdRanges.NONE, (int) old + 1);

        assertThat(brume.orders("ines", "spring cleaning").removeBeyondBounds()).isEqualTo(old);

        assertThat(linesBefore(kept)).isZero();
        assertThat(brume.history().run(lines.get(0).id())).isEmpty();
        RunView first = brume.history().run(lines.get((int) old).id()).orElseThrow();
        assertThat(first.owed().planned()).isEqualTo(kept);
        assertThat(first.result()).contains("3.1 m");
        assertThat(first.outputs().get(1).text()).isEqualTo("high water");
        for (String table : List.of("brume_content", "brume_output")) {
            assertThat(fresh.number("select count(*) from " + fresh.table(table)))
                    .as(table)
                    .isEqualTo(fresh.number("select count(*) from " + fresh.table("brume_ledger")));
        }
        assertThat(brume.history().retention().from()).isEqualTo(kept);
        assertThat(SealCheck.of(brume.history(), Optional.empty()).problem()).isEmpty();
        assertThat(brume.history().changes(ChangeFilter.newest(50)))
                .filteredOn(change -> change.change().kind().equals("REMOVED"))
                .hasSize((int) ChronoUnit.MONTHS.between(oldest.atZone(ZoneOffset.UTC), kept.atZone(ZoneOffset.UTC)))
                .allSatisfy(change -> assertThat(change.change().because()).isEqualTo("spring cleaning"));
        assertThat(fresh.number(
                        "select count(*) from " + fresh.table("brume_months()") + " where until_at <= '" + kept + "'"))
                .as("places of months that are gone")
                .isZero();
        List<JobAccount> accounts = new ArrayList<>();
        brume.history().accounts(Timeframe.between(oldest, brume.history().now()), accounts::add);
        assertThat(accounts).extracting(JobAccount::keptFrom).containsExactly(kept);
        assertThat(brume.oneOffs()
                        .add(OneOff.of(TIDES, "spring").in(Duration.ofDays(1)))
                        .changed())
                .isTrue();
    }

    @Test
    void aMonthThatSomebodyReadsStaysUntilTheyAreDone() throws Exception {
        BlockingQueue<String> told = new LinkedBlockingQueue<>();
        brume.listen("test", EventFilter.of(Event.Kind.PROBLEM), event -> told.add(event.text()));
        brume.orders("ines", "").keep(BOUND);
        List<Long> removed = new ArrayList<>();
        Timeframe frame = Timeframe.between(oldest, brume.history().now());
        List<Long> accounted = new ArrayList<>();
        brume.history().accounts(frame, account -> {
            removed.add(brume.orders("ines", "").removeBeyondBounds());
            accounted.add(account.keptFrom().getEpochSecond());
        });
        assertThat(removed).containsExactly(0L);
        assertThat(accounted).containsExactly(0L);
        assertThat(told.poll(30, TimeUnit.SECONDS)).contains("is still read, so it stays");
        assertThat(brume.orders("ines", "").removeBeyondBounds()).isPositive();
    }

    /** As a month of a hundred million lines does, here by a statement that sleeps. */
    @Test
    void aMonthMayTakeLongerThanStatementsOfTheEngineMay() throws Exception {
        String nap = fresh.table("nap");
        fresh.sql("create function " + nap + "() returns trigger language plpgsql as"
                + " 'begin perform pg_sleep(0.6); return null; end'");
        fresh.sql("create trigger nap before delete on " + fresh.table("brume_wait")
                + " for each statement execute function " + nap + "()");
        brume.orders("ines", "").keep(BOUND);
        try (HikariDataSource pool = Databases.postgres()) {
            JdbcStore impatient = JdbcStore.builder(pool)
                    .schema(fresh.place())
                    .withoutSchemaChanges()
                    .limit(Duration.ofMillis(500))
                    .build();
            Optional<Removed> month =
                    impatient.transact(tx -> tx.retention().removeMonth(kept, /* isNumbered= */ true));
            assertThat(month.orElseThrow().count()).isPositive();
            try (Connection connection = pool.getConnection()) {
                assertThat(connection.getNetworkTimeout()).isZero();
            }
        }
    }

    @Test
    void whatARunThatIsStillLivePrintedStays() throws Exception {
        long job = brume.history().job(TIDES).orElseThrow().row().id();
        long run = fresh.store().transact(tx -> {
            long id = tx.take(1).ids().get(0);
            tx.addRuns(List.of(
                    RunRow.planned(id, RunRow.Owed.scheduled(job, oldest.plus(1, ChronoUnit.HOURS), ZoneOffset.UTC))));
            return id;
        });
        fresh.sql("insert into " + fresh.table("brume_output") + " (run_id, planned_at, attempt, body, bytes, omitted)"
                + " select id, planned_at, 1, 'the first attempt', 17, 0 from " + fresh.table("brume_run"));
        brume.orders("ines", "").keep(BOUND);
        long old = linesBefore(kept);

        assertThat(brume.orders("ines", "").removeBeyondBounds()).isEqualTo(old);
        assertThat(brume.history().run(run).orElseThrow().outputs().get(1).text())
                .isEqualTo("the first attempt");
        assertThat(fresh.number(
                        "select count(*) from " + fresh.table("brume_output") + " where planned_at < '" + kept + "'"))
                .isEqualTo(1);
    }

    @Test
    void whatLiesElsewhereGoesWithItsMonth() throws Exception {
        long job = brume.history().job(TIDES).orElseThrow().row().id();
        Instant older = oldest.minus(100, ChronoUnit.DAYS);
        fresh.store().transact(tx -> {
            tx.addLines(List.of(line(tx.take(1).ids().get(0), job, older, Origin.SCHEDULE)));
            return null;
        });
        assertThat(addMonths(older.minus(40, ChronoUnit.DAYS), older))
                .as("the month whose line lies in the rest is left there")
                .isBetween(1, 2);
        brume.orders("ines", "").keep(BOUND);
        long old = linesBefore(kept);

        assertThat(brume.orders("ines", "").removeBeyondBounds()).isEqualTo(old);
        assertThat(linesBefore(kept)).isZero();
    }

    @Test
    void nobodyRemovesAMonthPastTheBoundsOrByHand() throws Exception {
        String since = "'" + oldest + "'";
        String remove = "select * from " + fresh.table("brume_remove_month") + "(" + since + ", true)";
        assertThatThrownBy(() -> fresh.sql(remove)).hasMessageContaining("is not beyond what the ledger keeps");
        fresh.sql("update " + fresh.table("brume_keep") + " set keep_seconds = 86400, floor_seconds = 86400 * 1000");
        assertThatThrownBy(() -> fresh.sql(remove)).hasMessageContaining("is not beyond what the ledger keeps");
        String piece = fresh.text("select piece from " + fresh.table("brume_months()") + " limit 1");
        String month = piece.contains(".") ? piece : fresh.table(piece);
        for (String by : List.of("delete from ", "truncate ")) {
            assertThatThrownBy(() -> fresh.sql(by + month)).hasMessageContaining("retention alone removes rows");
        }
        assertThatThrownBy(() -> fresh.sql("update " + month + " set outcome = 'FAILED'"))
                .hasMessageContaining("a row never changes");
        assertThat(linesBefore(brume.history().now())).isGreaterThan(400);
    }

    @Test
    void whereNoMonthIsMissingNobodyWaitsForWhoWorksOnTheLedger() throws Exception {
        try (Connection busy = fresh.connection();
                Statement statement = busy.createStatement()) {
            busy.setAutoCommit(false);
            statement.execute("lock table only " + fresh.table("brume_ledger") + " in share update exclusive mode");
            Instant now = brume.history().now();
            assertThat(addMonths(oldest, now)).isZero();
            assertThatThrownBy(() -> addMonths(oldest, now.plus(200, ChronoUnit.DAYS)))
                    .isInstanceOfSatisfying(
                            StoreException.class,
                            e -> assertThat(e.trouble()).isEqualTo(StoreException.Trouble.CONFLICT));
            busy.rollback();
            busy.setAutoCommit(true);
        }
    }

    @Test
    void rolesDoThatToo() throws Exception {
        String worker = fresh.place() + "_w";
        String archivist = fresh.place() + "_a";
        fresh.addUser(worker);
        fresh.addUser(archivist);
        try (Connection connection = fresh.connection();
                Statement statement = connection.createStatement()) {
            fresh.useOwnPlace(statement);
            statement.execute(JdbcStore.rolesScript("postgresql", worker, archivist));
        }
        brume.orders("ines", "").keep(BOUND);
        Instant now = brume.history().now();
        try (HikariDataSource working = fresh.poolOf(worker);
                HikariDataSource removing = fresh.poolOf(archivist);
                Brume archive =
                        Brume.on(fresh.storeOn(removing)).instance("archive").build()) {
            int added = fresh.storeOn(working)
                    .transact(tx -> tx.retention().addMonths(now, now.plus(200, ChronoUnit.DAYS)));
            int again = fresh.storeOn(working)
                    .transact(tx -> tx.retention().addMonths(now, now.plus(200, ChronoUnit.DAYS)));
            int notIts = fresh.storeOn(removing)
                    .transact(tx -> tx.retention().addMonths(now, now.plus(900, ChronoUnit.DAYS)));
            assertThat(added).isBetween(3, 4);
            assertThat(fresh.storeOn(working).history().runs(RunFilter.newest(3).of(TIDES)))
                    .hasSize(3);
            assertThat(again).isZero();
            assertThat(notIts).isZero();
            assertThatThrownBy(() ->
                            fresh.storeOn(working).transact(tx -> tx.retention().removeMonth(kept, true)))
                    .hasMessageContaining("permission denied");
            assertThat(archive.orders("ines", "").removeBeyondBounds()).isPositive();
            assertThat(linesBefore(kept)).isZero();
        }
    }
}
