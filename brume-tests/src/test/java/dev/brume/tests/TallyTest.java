package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Orders;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.StoreException;
import dev.brume.history.ChangeFilter;
import dev.brume.history.JobAccount;
import dev.brume.history.JobRow;
import dev.brume.history.LineSums;
import dev.brume.history.RunRow;
import dev.brume.history.Timeframe;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.tally.Accounts;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.RollUpCheck;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.TallyLine;
import dev.brume.insight.tally.Verdict;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.NewJob;
import dev.brume.spi.Pins;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What was owed against what a database has, and the command that says so. */
class TallyTest {
    private static final JobName TIDES = JobName.parse("tides");

    @TempDir
    private Path folder;

    /** Occurrences as the schedule owes them since the job was defined, each with a line in the ledger; the cursor moved on. */
    private static List<Instant> history(Store store, Brume brume, int count) {
        brume.define(
                Job.named(TIDES).every(Duration.ofSeconds(1)).program("true").build());
        JobAccount account = accounts(store, Instant.EPOCH, Instant.parse("9999-01-01T00:00:00Z"))
                .get(0);
        List<Instant> owed = new ArrayList<>();
        Optional<Occurrence> next = account.versions().get(0).job().next(account.cursor());
        while (owed.size() < count) {
            owed.add(next.orElseThrow().instant());
            next = account.versions().get(0).job().next(owed.get(owed.size() - 1));
        }
        store.transact(tx -> {
            tx.addLines(owed.stream()
                    .map(planned -> line(tx, account.id(), planned))
                    .toList());
            JobRow row = tx.lockJobsById(List.of(account.id())).get(account.id());
            tx.advance(List.of(new JobAdvance(
                    row.id(),
                    owed.get(count - 1),
                    Optional.of(owed.get(count - 1).plusSeconds(1)),
                    row.runs(),
                    Optional.empty())));
            return null;
        });
        return owed;
    }

    private static LedgerLine line(Transaction tx, long job, Instant planned) {
        RunRow.Owed owed = RunRow.Owed.scheduled(job, planned, ZoneOffset.UTC);
        return new LedgerLine(
                tx.take(1).ids().get(0),
                owed,
                1,
                "main",
                planned,
                Outcome.CANCELLED,
                Optional.of(Reason.BY_HAND),
                List.of(),
                Optional.empty(),
                Optional.empty());
    }

    private static List<JobAccount> accounts(Store store, Instant from, Instant until) {
        List<JobAccount> accounts = new ArrayList<>();
        store.history().accounts(Timeframe.between(from, until), accounts::add);
        return accounts;
    }

    @ParameterizedTest
    @EnumSource
    void aLineThatSomeoneRemovedIsFoundMissing(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store())
                        .takesPrograms()
                        .instance("office")
                        .build()) {
            List<Instant> owed = history(fresh.store(), brume, 40);
            brume.define(Job.named("quiet").program("true").build());
            Instant until = owed.get(39).plusMillis(1);
            JobAccount before = accounts(fresh.store(), owed.get(0), until).stream()
                    .filter(account -> account.name().equals(TIDES))
                    .findFirst()
                    .orElseThrow();
            assertThat(Tally.of(before, owed.get(0), until).isClean()).isTrue();
            assertThat(Tally.of(before, owed.get(0), until).count(Verdict.SKIPPED))
                    .isEqualTo(40);

            String ledger = fresh.table("brume_ledger");
            String deletion = "delete from " + ledger + " where run_id in ("
                    + before.lines().get(7).run() + ", "
                    + before.lines().get(23).run() + ")";
            assertThatThrownBy(() -> fresh.sql("update " + ledger + " set outcome = 'SUCCEEDED'"))
                    .hasMessageContaining("insert-only");
            assertThatThrownBy(() -> fresh.sql(deletion)).hasMessageContaining("insert-only");
            othersAreClosedToo(fresh, db);
            fresh.withoutGuard("brume_ledger");
            fresh.sql(deletion);
            List<JobAccount> after = accounts(fresh.store(), owed.get(0), until);

            assertThat(after).extracting(JobAccount::name).containsExactlyInAnyOrder(TIDES, JobName.parse("quiet"));
            JobTally tally = after.stream()
                    .filter(account -> account.name().equals(TIDES))
                    .map(account -> Tally.of(account, owed.get(0), until))
                    .findFirst()
                    .orElseThrow();
            assertThat(tally.expected()).isEqualTo(40);
            assertThat(tally.accounted()).isEqualTo(38);
            assertThat(tally.listed(Verdict.UNEXPLAINED))
                    .extracting(TallyLine::planned)
                    .containsExactly(owed.get(7), owed.get(23));
        }
    }

    /** Two whole hours of a job that runs every minute, which began long ago. */
    private static Timeframe twoHours(Store store) {
        Instant begin = LineSums.hourOf(store.history().now()).minus(Duration.ofHours(2));
        Job job = Job.named(TIDES).every(Duration.ofMinutes(1)).program("true").build();
        store.transact(tx -> {
            Optional<Instant> next = job.next(begin.plusSeconds(7199)).map(Occurrence::instant);
            long id = tx.addJobs(List.of(
                            new NewJob(job, Pins.NONE, "test", begin.minusSeconds(86_400), next, Optional.empty())))
                    .get(0);
            tx.addLines(IntStream.range(0, 120)
                    .mapToObj(i -> ranLine(tx, id, begin.plus(Duration.ofMinutes(i))))
                    .toList());
            JobRow row = tx.lockJobsById(List.of(id)).get(id);
            tx.advance(List.of(new JobAdvance(id, begin.plusSeconds(7199), next, row.runs(), Optional.empty())));
            return null;
        });
        return Timeframe.between(begin, begin.plus(Duration.ofHours(2)));
    }

    private static LedgerLine ranLine(Transaction tx, long job, Instant planned) {
        Attempt attempt = Attempt.begun(1, "quay-1", new UUID(1, 2), 7, planned.plusMillis(20))
                .ended(planned.plusSeconds(9), AttemptEnd.SUCCEEDED, Optional.empty());
        return new LedgerLine(
                tx.take(1).ids().get(0),
                RunRow.Owed.scheduled(job, planned, ZoneOffset.UTC),
                1,
                "main",
                planned,
                Outcome.SUCCEEDED,
                Optional.empty(),
                List.of(attempt),
                Optional.empty(),
                Optional.empty());
    }

    private static JobTally tally(Store store, Timeframe frame) {
        return Accounts.read(store.history(), frame, account -> Tally.ofSums(account, frame.from(), frame.until()))
                .get(0);
    }

    @ParameterizedTest
    @EnumSource
    void aLineThatIsRemovedAfterItWasSummedUpIsFoundMissingToo(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            Timeframe frame = twoHours(fresh.store());
            assertThat(brume.orders("ines", "").sumUp()).isEqualTo(120);
            assertThat(brume.orders("ines", "").sumUp()).isZero();
            assertThat(tally(fresh.store(), frame).count(Verdict.ON_TIME)).isEqualTo(120);
            assertThat(RollUpCheck.differences(brume.history(), frame)).isEmpty();
            List<JobAccount> summed = new ArrayList<>();
            brume.history().accounts(frame.inSums(), summed::add);
            assertThat(summed.get(0).lines()).isEmpty();

            fresh.withoutGuard("brume_ledger");
            fresh.sql("delete from " + fresh.table("brume_ledger")
                    + " where run_id = (select least from (select min(run_id) + 70" + " as least from "
                    + fresh.table("brume_ledger") + ") x)");

            JobTally tally = tally(fresh.store(), frame);
            assertThat(tally.count(Verdict.ON_TIME)).isEqualTo(119);
            assertThat(tally.listed(Verdict.UNEXPLAINED))
                    .extracting(TallyLine::planned)
                    .containsExactly(frame.from().plus(Duration.ofMinutes(70)));
            assertThat(RollUpCheck.differences(brume.history(), frame))
                    .containsExactly(
                            new RollUpCheck.Difference(TIDES, frame.from().plus(Duration.ofHours(1)), 60, 59));
            assertThat(new Checkup(brume.history(), brume.history().now(), "2025b", Instant::toString)
                            .look()
                            .findings())
                    .filteredOn(finding -> finding.topic().equals("roll-up"))
                    .singleElement()
                    .satisfies(finding ->
                            assertThat(finding.text()).contains("59 lines are in the ledger, and 60 in its sums"));
            assertThat(brume.orders("ines", "as the doctor said").sumUpAnew()).isEqualTo(119);
            assertThat(RollUpCheck.differences(brume.history(), frame)).isEmpty();
            assertThat(brume.history().changes(ChangeFilter.newest(5).withKind("SUMMED_ANEW")))
                    .singleElement()
                    .satisfies(change -> assertThat(change.change().because()).isEqualTo("as the doctor said"));
        }
    }

    /** As while a cluster is upgraded: the tally of an older instance reads lines, and it adds nothing to sums that it does not know. */
    @ParameterizedTest
    @EnumSource
    void sumsInANewersFormAreLeftAside(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store()).instance("office").build()) {
            Timeframe frame = twoHours(fresh.store());
            Orders ines = brume.orders("ines", "");
            assertThat(ines.sumUp()).isEqualTo(120);
            String second = Base64.getEncoder().encodeToString(new byte[] {2, 1, 1});
            fresh.sql("update " + fresh.table("brume_roll_up") + " set whole = '" + second + "', hours = '" + second
                    + "'");

            assertThat(tally(fresh.store(), frame).count(Verdict.ON_TIME)).isEqualTo(120);
            fresh.sql("update " + fresh.table("brume_roll_up_head") + " set high_line = 0");
            assertThatThrownBy(ines::sumUp)
                    .isInstanceOf(StoreException.class)
                    .hasMessageContaining("summed up by a newer version of Brume")
                    .hasMessageContaining("brume roll-up --anew");
            assertThat(ines.sumUpAnew()).isEqualTo(120);
            assertThat(RollUpCheck.differences(brume.history(), frame)).isEmpty();
        }
    }

    /** The triggers of H2 and MariaDB know nothing of rows that are not there. */
    private static void othersAreClosedToo(Db.Fresh fresh, Db db) throws Exception {
        String at = db == Db.MARIADB ? "'2026-01-01 00:00:00'" : "timestamp '2026-01-01 00:00:00'";
        fresh.sql("insert into " + fresh.table("brume_span")
                + " (job_id, from_at, until_at, version, first_at, last_at, occurrences, reason) values (0, " + at
                + ", "
                + at + ", 1, " + at + ", " + at + ", 1, 'MISSED')");
        fresh.sql("insert into " + fresh.table("brume_output")
                + " (run_id, planned_at, attempt, body, bytes, omitted) values (0, " + at
                + ", 1, 'high water', 10, 0)");
        fresh.sql("insert into " + fresh.table("brume_erasure")
                + " (run_id, erased_at, who, because, content) values (0, " + at + ", 'ines', 'asked', '')");
        fresh.sql("insert into " + fresh.table("brume_content") + " (run_id, planned_at, payload) values (0, " + at
                + ", 'x')");
        Map<String, String> columns = Map.of(
                "brume_span", "reason",
                "brume_output", "body",
                "brume_content", "payload",
                "brume_change", "who",
                "brume_erasure", "who",
                "brume_definition", "definition");
        for (String table : columns.keySet()) {
            String name = fresh.table(table);
            String column = columns.get(table);
            assertThatThrownBy(() -> fresh.sql("update " + name + " set " + column + " = 'x'"))
                    .as(table)
                    .hasMessageContaining(table + " is insert-only: a row never changes");
            assertThatThrownBy(() -> fresh.sql("delete from " + name)).as(table).hasMessageContaining("insert-only");
        }
        for (String table : List.of("ledger", "span", "output", "change", "definition", "seal", "content", "erasure")) {
            assertThatThrownBy(() -> fresh.sql("truncate table " + fresh.table("brume_" + table)))
                    .as(table)
                    .hasMessageMatching("(?is).*(insert-only|cannot truncate).*");
        }
    }

    @Test
    void theCommandSaysSoAndExitsWithOne() throws Exception {
        List<Instant> owed;
        try (EmbeddedDatabase database =
                        EmbeddedDatabase.open(folder.resolve("brume-data"), EmbeddedDatabase.Role.HOST);
                Brume brume = Brume.on(JdbcStore.on(database))
                        .takesPrograms()
                        .instance("office")
                        .build()) {
            owed = history(JdbcStore.on(database), brume, 3);
            while (brume.history().now().isBefore(owed.get(2).plusMillis(1))) {
                Thread.onSpinWait();
            }
        }
        String from = owed.get(0).toString();
        String until = owed.get(2).plusMillis(1).toString();

        BrumeProcess.Result clean = Commands.run(folder, "tally", "--from", from, "--until", until);
        assertThat(clean.out()).contains("3 owed, 3 on record, 0 not planned yet, 0 missed, 0 unexplained.");
        assertThat(clean.exitCode()).isZero();

        try (EmbeddedDatabase database =
                        EmbeddedDatabase.open(folder.resolve("brume-data"), EmbeddedDatabase.Role.HOST);
                var connection = database.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("drop trigger brume_ledger_no_delete");
            statement.execute("delete from brume_ledger where planned_at = '" + owed.get(1) + "'");
        }
        BrumeProcess.Result found =
                Commands.run(folder, "tally", "--from", from, "--until", until, "--report", "tally.html");
        assertThat(Files.readString(folder.resolve("tally.html")))
                .contains("<title>Tally from " + from)
                .contains("3 owed, 2 on record")
                .contains("Unexplained: 1")
                .contains("<td class=\"t\">" + owed.get(1) + "</td>")
                .contains("from brume_ledger where job_id = :id")
                .contains("Version 1, in force after ");
        assertThat(answeredStatements(Files.readString(folder.resolve("tally.html"))))
                .as("the statements that the report prints, for a check by hand")
                .isEqualTo(6);
        assertThat(found.exitCode()).isEqualTo(1);
        assertThat(found.out())
                .contains("UNEXPLAINED  ")
                .contains("owed by version 1, and nothing is on record")
                .contains("3 owed, 2 on record, 0 not planned yet, 0 missed, 1 unexplained.");
        Map<String, Object> json = Commands.run(folder, "tally", "--from", from, "--until", until, "--format", "json")
                .json();
        assertThat(json).containsEntry("owed", 3).containsEntry("onRecord", 2).containsEntry("unexplained", 1);
        BrumeProcess.Result stats = Commands.run(folder, "stats", "--from", from, "--until", until);
        assertThat(stats.exitCode()).isZero();
        assertThat(stats.out()).contains("SILENCE").containsPattern("tides +2 +0");
        BrumeProcess.Result unknown = Commands.run(folder, "tally", "--job", "nobody");
        assertThat(unknown.exitCode()).isEqualTo(1);
        assertThat(unknown.err()).contains("there is no job 'nobody'");
    }

    private long answeredStatements(String report) throws Exception {
        String escaped = report.replaceAll("(?s).*<pre>(-- id[^<]*)</pre>.*", "$1");
        String[] statements = escaped.replace("&#39;", "'")
                .replace("&gt;", ">")
                .replace("&lt;", "<")
                .replaceFirst("-- id.*", "")
                .split(";");
        try (EmbeddedDatabase database =
                        EmbeddedDatabase.open(folder.resolve("brume-data"), EmbeddedDatabase.Role.HOST);
                var connection = database.getConnection();
                var statement = connection.createStatement()) {
            long answered = 0;
            for (String sql : statements) {
                try (var rows = statement.executeQuery(sql.replace(":id", "1"))) {
                    answered += rows.getMetaData().getColumnCount() > 0 ? 1 : 0;
                }
            }
            return answered;
        }
    }
}
