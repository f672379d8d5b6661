package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.ChangeFilter;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.tally.Accounts;
import dev.brume.insight.tally.JobFigures;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.why.Question;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.EverySchedule;
import dev.brume.spi.NewJob;
import dev.brume.spi.Pins;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.Callable;

/**
 * What people look at, on PostgreSQL with ten million ledger lines: each question of the looking commands, the ones that find
 * nothing included, with the longest of several answers. With the argument {@code pages}: each page of the console instead.
 *
 * <p>A thousand jobs run every 100 s or so, ten once a day; one run in a hundred fails, one in a hundred thousand was ordered by
 * hand; three instances share the work, a fourth was there only at the beginning.
 */
public final class LookingBenchmark {
    private static final int ROUNDS = Scale.number("rounds", 5, 1);
    private static final int LINES = Scale.number("lines", 10_000_000, 10_000);
    private static final int FREQUENT = Scale.number("jobs", 1000, 1000);
    private static final int RARE = 10;

    private final JdbcStore store;
    private final History history;
    private final Instant now;
    private double worst;

    private LookingBenchmark(JdbcStore store, Instant now) {
        this.store = store;
        this.history = store.history();
        this.now = now;
    }

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(4)) {
            JdbcStore store = server.freshStore(pool, "looking");
            Instant now = store.history().now();
            LookingBenchmark benchmark = new LookingBenchmark(store, now);
            benchmark.defineJobs();
            long begun = System.nanoTime();
            fill(pool);
            System.out.printf(Locale.ROOT, "%,d lines written in %.0f s%n", LINES, (System.nanoTime() - begun) / 1e9);
            size(pool);
            try (Brume brume = Brume.on(store).instance("office").build()) {
                begun = System.nanoTime();
                long summed = brume.orders("bench", "").sumUp();
                System.out.printf(
                        Locale.ROOT, "%,d lines summed up in %.0f s%n", summed, (System.nanoTime() - begun) / 1e9);
            }
            execute(pool, "vacuum analyze looking.brume_roll_up");
            if (List.of(args).contains("pages")) {
                Pages.measure(store, new JobName("main", "often-7"), LINES - 1000L);
                return;
            }
            benchmark.look();
            System.out.printf(Locale.ROOT, "the slowest answer of all: %.0f ms%n", benchmark.worst);
            benchmark.removeMonths();
        }
    }

    /** What a ledger line takes on the disk, and its indexes besides. */
    private static void size(HikariDataSource pool) throws Exception {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement();
                ResultSet sizes = statement.executeQuery(
                        "select sum(pg_table_size(piece)) / sum(lines), sum(pg_indexes_size(piece)) / sum(lines)"
                                + " from (select piece, (select reltuples from pg_class where oid = piece) as lines"
                                + " from looking.brume_months() where held > 0) m")) {
            sizes.next();
            System.out.printf(
                    Locale.ROOT, "bytes per line: %.0f, its indexes: %.0f%n", sizes.getDouble(1), sizes.getDouble(2));
        }
    }

    private void defineJobs() {
        List<NewJob> jobs = new ArrayList<>();
        Instant longAgo = now.minus(Duration.ofDays(400)).truncatedTo(ChronoUnit.SECONDS);
        for (int i = 0; i < FREQUENT + RARE; i++) {
            boolean rare = i >= FREQUENT;
            Job.Builder job = Job.named((rare ? "daily-" : "often-") + i).handler("work");
            Job built = (rare
                            ? job.cron(i - FREQUENT + " 0 4 * * *", "UTC").tag("daily")
                            : job.schedule(EverySchedule.of(Duration.ofSeconds(FREQUENT))
                                    .withAnchor(Instant.EPOCH.plusSeconds(i))))
                    .build();
            jobs.add(new NewJob(
                    built, Pins.NONE, "bench", longAgo, built.next(now).map(each -> each.instant()), Optional.empty()));
        }
        store.transact(tx -> tx.addJobs(jobs));
    }

    /** Lines of the past, one a second, the newest a second ago, each owed by its job's schedule; and those of the daily jobs. */
    private static void fill(HikariDataSource pool) throws Exception {
        String columns =
                "(run_id, job_id, planned_at, slot, origin, nominal, zone, version, lane, ready_at, outcome, reason,"
                        + " attempt, instance, session_id, fence, started_at, ended_at, recorded_at)";
        String line = "i, job, at, '', case when i % 100000 = 7 then 'BY_HAND' else 'SCHEDULE' end,"
                + " to_char(at at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS'), 'UTC', 1, 'main', at,"
                + " case when i % 100 = 3 then 'FAILED' else 'SUCCEEDED' end,"
                + " case when i % 100 = 3 then 'NO_ATTEMPT_LEFT' end, 1,"
                + " case when i < 2000 then 'quay-0' else 'quay-' || 1 + i % 3 end, gen_random_uuid(), i,"
                + " at + interval '3 milliseconds', at + (50 + i % 100) * interval '1 millisecond', at";
        String begin = "date_trunc('second', now()) - interval '1 second' * ";
        execute(pool, "select looking.brume_add_months(" + begin + LINES + ", now())");
        long step = 1_000_000;
        for (long from = 1; from <= LINES; from += step) {
            long to = Math.min(LINES, from + step - 1);
            execute(
                    pool,
                    "insert into looking.brume_ledger " + columns + " select " + line
                            + " from (select i, 1 + extract(epoch from at)::bigint % " + FREQUENT + " as job, at"
                            + " from (select i, " + begin + "(" + (LINES + 1) + " - i) as at from generate_series("
                            + from + ", "
                            + to + ") as g(i)) y) x");
        }
        execute(
                pool,
                "insert into looking.brume_ledger " + columns + " select " + line + " from (select " + LINES
                        + " + row_number() over () as i, " + (FREQUENT + 1)
                        + " + k as job, day + interval '4 hours' + k * interval '1 second' as at"
                        + " from generate_series(date_trunc('day', " + begin + LINES
                        + ", 'UTC'), now() - interval '5 hours', interval '1 day') as d(day),"
                        + " generate_series(0, " + (RARE - 1) + ") as g(k)) x");
        execute(
                pool,
                "insert into looking.brume_content (run_id, planned_at, error)"
                        + " select run_id, planned_at, 'exit code 3: ledger office: the clerk is at lunch' from looking.brume_ledger"
                        + " where outcome = 'FAILED'");
        execute(pool, "vacuum analyze looking.brume_content");
        execute(pool, "update looking.brume_job set cursor_at = now()");
        execute(pool, "vacuum analyze looking.brume_ledger");
        execute(pool, "vacuum analyze looking.brume_job");
    }

    private static void execute(HikariDataSource pool, String sql) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** The oldest month, which is not whole, and the one after it. */
    private void removeMonths() {
        Instant begin = now.minusSeconds(LINES)
                .atZone(ZoneOffset.UTC)
                .truncatedTo(ChronoUnit.DAYS)
                .withDayOfMonth(1)
                .toInstant();
        try (Brume brume = Brume.on(store).instance("archive").build()) {
            for (int month = 1; month <= 2; month++) {
                Instant end = begin.atZone(ZoneOffset.UTC).plusMonths(month).toInstant();
                if (end.isAfter(now)) {
                    return;
                }
                brume.orders("bench", "")
                        .keep(Keep.upTo(Duration.between(end, now).truncatedTo(ChronoUnit.SECONDS)));
                long begun = System.nanoTime();
                long removed = brume.orders("bench", "").removeBeyondBounds();
                System.out.printf(
                        Locale.ROOT,
                        "a month of %,d lines removed in %.2f s%n",
                        removed,
                        (System.nanoTime() - begun) / 1e9);
            }
        }
    }

    private void look() throws Exception {
        RunFilter newest = RunFilter.newest(30);
        JobName rare = JobName.parse("daily-" + (FREQUENT + 1));
        JobName often = JobName.parse("often-17");
        answer("brume jobs", history::jobs);
        answer("brume runs", () -> history.runs(newest));
        answer("brume runs --job (often)", () -> history.runs(newest.of(often)));
        answer("brume runs --job (daily)", () -> history.runs(newest.of(rare)));
        answer(
                "brume runs --job (daily), 500",
                () -> history.runs(RunFilter.newest(500).of(rare)));
        answer("brume runs --outcome FAILED", () -> history.runs(ended(Outcome.FAILED)));
        answer("brume runs --outcome LOST (none)", () -> history.runs(ended(Outcome.LOST)));
        answer("brume runs --outcome RUNNING (none)", () -> history.runs(live()));
        answer("brume runs --reason NO_ATTEMPT_LEFT", () -> history.runs(newest.withReason("NO_ATTEMPT_LEFT")));
        answer("brume runs --reason MISSED (none)", () -> history.runs(newest.withReason("MISSED")));
        answer("brume runs --on quay-2", () -> history.runs(newest.on("quay-2")));
        answer("brume runs --on quay-0 (long ago)", () -> history.runs(newest.on("quay-0")));
        answer("brume runs --on quay-9 (none)", () -> history.runs(newest.on("quay-9")));
        answer("brume runs --origin by-hand", () -> history.runs(newest.withOrigin(Origin.BY_HAND)));
        answer("brume runs --origin backfill (none)", () -> history.runs(newest.withOrigin(Origin.BACKFILL)));
        answer("brume runs --tag daily", () -> history.runs(newest.withTag("daily")));
        answer("brume runs --error clerk", () -> history.runs(newest.withError("the clerk")));
        answer("brume runs --error nowhere (none)", () -> history.runs(newest.withError("nowhere")));
        answer("brume runs --from 60d --until 59d", () -> history.runs(period(60, 59)));
        RunView last = history.runs(RunFilter.newest(5000)).get(4999);
        answer(
                "brume runs --below (page 167)",
                () -> history.runs(newest.below(new RunFilter.Below(last.owed().planned(), last.id()))));
        answer("brume show", () -> history.run(last.id()));
        answer("brume why (daily)", () -> question(rare).aboutNow());
        answer("brume why --at (often)", () -> question(often).about(last.owed().planned()));
        answer("brume changes", () -> history.changes(ChangeFilter.newest(30)));
        answer("brume instances --all", () -> history.sessions(/* ended= */ true));
        answer("brume doctor", () -> new Checkup(history, now, "2025b", Instant::toString).look());
        Instant yesterday = now.minus(Duration.ofDays(1));
        Instant lastWeek = now.minus(Duration.ofDays(7));
        answer("brume tally --line-by-line (24 h)", () -> tally(yesterday));
        answer("brume stats --line-by-line (24 h, and the 24 h before)", () -> stats(yesterday));
        answer("brume tally --line-by-line (week)", () -> tally(lastWeek));
        answer("brume stats --line-by-line (week, and the week before)", () -> stats(lastWeek));
        answer("brume tally (24 h)", () -> tallyOfSums(yesterday));
        answer("brume stats (24 h, and the 24 h before)", () -> statsOfSums(yesterday));
        answer("brume tally (week)", () -> tallyOfSums(lastWeek));
        answer("brume stats (week, and the week before)", () -> statsOfSums(lastWeek));
        answer("brume tally --job (daily) --from 90d", () -> {
            List<Object> found = new ArrayList<>();
            Instant from = now.minus(Duration.ofDays(90));
            history.accounts(Timeframe.between(from, now).of(rare), account -> found.add(Tally.of(account, from, now)));
            return found;
        });
    }

    private List<Object> tally(Instant from) {
        List<Object> found = new ArrayList<>();
        history.accounts(Timeframe.between(from, now), account -> found.add(Tally.of(account, from, now)));
        return found;
    }

    private List<Object> tallyOfSums(Instant from) {
        return Accounts.read(
                history,
                Timeframe.between(from, now),
                account -> Tally.ofSums(account, from, now).map(Object.class::cast));
    }

    private List<Object> stats(Instant from) {
        List<Object> found = new ArrayList<>();
        history.accounts(withBefore(from), account -> figures(account, from).ifPresent(found::add));
        return found;
    }

    private List<Object> statsOfSums(Instant from) {
        return Accounts.read(history, withBefore(from), account -> figures(account, from));
    }

    private Timeframe withBefore(Instant from) {
        return Timeframe.between(from.minus(Duration.between(from, now)), now).splitAt(from);
    }

    private Optional<Object> figures(JobAccount account, Instant from) {
        Instant earlier = from.minus(Duration.between(from, now));
        return JobFigures.ofSums(account, from, now)
                .map(figures -> List.of(figures, JobFigures.endsOf(account, earlier, from)));
    }

    private Question question(JobName key) {
        return new Question(history, history.job(key).orElseThrow(), now, Instant::toString);
    }

    private static RunFilter ended(Outcome outcome) {
        return RunFilter.newest(30).withOutcome(outcome);
    }

    private static RunFilter live() {
        return RunFilter.newest(30).withState(RunState.RUNNING);
    }

    private RunFilter period(int fromDays, int untilDays) {
        return RunFilter.newest(30)
                .from(now.minus(Duration.ofDays(fromDays)))
                .until(now.minus(Duration.ofDays(untilDays)));
    }

    private void answer(String question, Callable<?> asking) throws Exception {
        List<Double> millis = new ArrayList<>();
        Object answer = null;
        for (int i = 0; i < ROUNDS; i++) {
            long begun = System.nanoTime();
            answer = asking.call();
            millis.add((System.nanoTime() - begun) / 1e6);
        }
        double longest = millis.stream().mapToDouble(Double::doubleValue).max().orElseThrow();
        worst = Math.max(worst, longest);
        String size = answer instanceof List<?> list ? ", " + list.size() + " found" : "";
        System.out.printf(
                Locale.ROOT, "%-42s %8.1f ms, at most %8.1f%s%n", question, Figures.median(millis), longest, size);
    }
}
