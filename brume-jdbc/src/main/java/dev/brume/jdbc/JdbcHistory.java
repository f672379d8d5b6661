package dev.brume.jdbc;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunResult;
import dev.brume.RunState;
import dev.brume.history.AllowanceRow;
import dev.brume.history.Backlog;
import dev.brume.history.CalendarView;
import dev.brume.history.CauseRow;
import dev.brume.history.Change;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Ends;
import dev.brume.history.Erasure;
import dev.brume.history.Feed;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.history.Gate;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NamespaceView;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.Output;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.Retention;
import dev.brume.history.RollUp;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.history.SignInRow;
import dev.brume.history.Span;
import dev.brume.history.SpanView;
import dev.brume.history.Standing;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.history.TokenRow;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Stream;

/** The reading side in SQL; live runs and ledger lines are read apart and merged. */
final class JdbcHistory implements History {
    private static final int MOST_LOCKED = 20;
    private final JdbcStore store;
    private final JobSearch jobs;
    private final RunSearch runs;

    JdbcHistory(JdbcStore store) {
        this.store = store;
        this.jobs = new JobSearch(store);
        this.runs = new RunSearch(store);
    }

    @Override
    public Instant now() {
        return store.clock();
    }

    @Override
    public List<JobView> jobs() {
        return jobs.all();
    }

    @Override
    public List<JobView> watchedJobs() {
        return jobs.watched();
    }

    @Override
    public List<JobView> jobs(JobFilter filter) {
        return jobs.find(filter);
    }

    @Override
    public long jobCount() {
        return jobs.count();
    }

    @Override
    public Optional<JobView> job(JobName key) {
        return jobs.job(key);
    }

    @Override
    public List<CalendarView> calendars() {
        return store.read(sql -> sql.query(
                "select " + CalendarRows.COLUMNS + ", defined_at, (select count(*) from brume_calendar_use u"
                        + " join brume_job j on j.id = u.job_id where u.namespace = c.namespace and u.name = c.name"
                        + " and j.live_key is not null) as jobs" + CalendarRows.NEWEST + " order by namespace, name",
                row -> new CalendarView(CalendarRows.row(row), row.instant("defined_at"), row.integer("jobs"))));
    }

    @Override
    public List<RunView> runs(RunFilter filter) {
        return runs.find(filter);
    }

    @Override
    public Optional<RunView> run(long id) {
        return store.read(sql -> {
            Optional<RunView> live = sql.first(RunViews.LIVE + " and r.id = ?", RunViews::live, id);
            Optional<RunView> found =
                    live.isPresent() ? live : sql.first(RunViews.ENDED + " and l.run_id = ?", RunViews::ended, id);
            Map<Integer, Output> outputs = new TreeMap<>();
            sql.query(
                    "select attempt, body, bytes, omitted from brume_output where run_id = ?",
                    row -> outputs.put(row.integer(1), new Output(row.text(2), row.number(3), row.number(4))),
                    id);
            if (live.isPresent()) {
                sql.query(
                        "select attempt, printed, printed_bytes, printed_left from brume_run where id = ? and printed is not null"
                                + " and printed_fence = fence",
                        row -> outputs.put(row.integer(1), new Output(row.text(2), row.number(3), row.number(4))),
                        id);
            }
            return found.map(run -> run.with(outputs));
        });
    }

    @Override
    public Standing standing(Collection<Long> runs) {
        return store.read(sql -> {
            List<Long> wanted = List.copyOf(new TreeSet<>(runs));
            Set<Long> live = new TreeSet<>();
            live.addAll(sql.in("select id from brume_run where id in ", wanted, "", row -> row.number(1)));
            live.addAll(
                    sql.in("select id from brume_one_off where made = 0 and id in ", wanted, "", row -> row.number(1)));
            List<Long> others =
                    wanted.stream().filter(run -> !live.contains(run)).toList();
            Map<Long, RunResult> ended = new TreeMap<>();
            sql.in(ENDS, others, "", JdbcHistory::end).forEach(end -> ended.put(end.run(), end));
            return new Standing(live, ended);
        });
    }

    private static final String ENDS = "select l.run_id, l.outcome, l.reason, c.result, c.error from brume_ledger l"
            + " left join brume_content c on c.run_id = l.run_id and c.planned_at = l.planned_at where l.run_id in ";

    private static RunResult end(Row row) throws SQLException {
        return new RunResult(
                row.number("run_id"),
                Outcome.valueOf(row.text("outcome")),
                row.optionalText("reason"),
                row.optionalText("result"),
                row.optionalText("error"));
    }

    private static final String ONE_OFFS =
            "select j.namespace, j.name, o.* from brume_one_off o join brume_job j on j.id = o.job_id where j.live_key is not null";

    private static OneOffView oneOff(Row row) throws SQLException {
        return JdbcOneOffs.row(row).view(Rows.jobKey(row));
    }

    @Override
    public List<OneOffView> oneOffs(OneOffFilter filter) {
        Query query = new Query().and("j.live_key = ?", filter.job().map(Rows::liveKey));
        if (!filter.prefix().isEmpty()) {
            query.and("o.one_off_key like ? escape '!'", JdbcOneOffs.beginningWith(filter.prefix()));
        }
        within(query, filter.namespaces());
        filter.after()
                .ifPresent(last -> query.and(
                        "o.due_at >= ? and (o.due_at > ? or o.id > ?)", last.dueAt(), last.dueAt(), last.run()));
        return oneOffs(query, filter.limit());
    }

    private List<OneOffView> oneOffs(Query query, int limit) {
        return store.read(sql -> sql.query(
                ONE_OFFS + " and o.made = 0 and o.parent_run is null" + query + " order by o.due_at, o.id limit ?",
                JdbcHistory::oneOff,
                query.valuesAnd(limit)));
    }

    @Override
    public Optional<OneOffView> oneOff(long run) {
        return oneOffs(new Query().and("o.id = ?", Optional.of(run)), 1).stream()
                .findFirst();
    }

    @Override
    public Optional<OneOffView> oneOff(JobName job, String key) {
        return store.read(sql -> sql.first(
                ONE_OFFS + " and j.live_key = ? and o.one_off_key = ?", JdbcHistory::oneOff, Rows.liveKey(job), key));
    }

    @Override
    public List<SpanView> spans(RunFilter filter) {
        Query query = new Query()
                .and("s.until_at > ?", filter.from())
                .and("s.from_at < ?", filter.until())
                .and("s.reason = ?", filter.reason());
        within(query, filter.namespaces());
        return store.read(sql -> {
            filter.job().ifPresent(key -> query.in("s.job_id", JobSearch.everNamed(sql, key)));
            return sql.query(
                    "select j.namespace, j.name, s.* from brume_span s join brume_job j on j.id = s.job_id where 1 = 1"
                            + query + " order by s.from_at desc limit ?",
                    JdbcHistory::span,
                    query.valuesAnd(filter.limit()));
        });
    }

    private static void within(Query query, Set<String> namespaces) {
        if (!namespaces.isEmpty()) {
            query.in("j.namespace", namespaces);
        }
    }

    static SpanView span(Row row) throws SQLException {
        return new SpanView(Rows.jobKey(row), plainSpan(row));
    }

    static Span plainSpan(Row row) throws SQLException {
        return new Span(
                row.number("job_id"),
                row.integer("version"),
                row.instant("from_at"),
                row.instant("until_at"),
                row.instant("first_at"),
                row.instant("last_at"),
                row.number("occurrences"),
                row.text("reason"));
    }

    @Override
    public void accounts(Timeframe frame, Consumer<JobAccount> receiver) {
        store.snapshot(sql -> {
            new JdbcAccounts(sql, store.dialect(), store.versions(), frame, receiver).read();
            return null;
        });
    }

    @Override
    public List<ChangeView> changes(ChangeFilter filter) {
        Query query = new Query()
                .and("kind = ?", filter.kind())
                .and("who = ?", filter.who())
                .and("at >= ?", filter.from())
                .and("at < ?", filter.until())
                .and("id < ?", filter.before());
        if (!filter.namespaces().isEmpty()) {
            query.either(
                    "(job like ? escape '!' or job is null and kind in ('PAUSED', 'RESUMED')"
                            + " and (body = ? or body like ? escape '!'))",
                    filter.namespaces().stream().map(JdbcHistory::about).toList());
        }
        return store.read(sql -> {
            filter.job().ifPresent(key -> about(query, sql, key));
            return sql.query(
                    "select * from brume_change where 1 = 1" + query + " order by id desc limit ?",
                    JdbcHistory::change,
                    query.valuesAnd(filter.limit()));
        });
    }

    private static List<Object> about(String namespace) {
        String scope = Pause.Scope.namespace(namespace).toString();
        return List.of(literal(namespace) + "/%", scope, literal(scope) + ", %");
    }

    private static String literal(String text) {
        return text.replace("!", "!!").replace("%", "!%").replace("_", "!_");
    }

    private void about(Query query, Statements sql, JobName key) {
        List<String> names = new ArrayList<>(List.of(Rows.liveKey(key)));
        List<Long> ids = JobSearch.everNamed(sql, key);
        names.addAll(sql.in("select name_key from brume_former_name where job_id in ", ids, "", row -> row.text(1)));
        List<String> tags = tags(sql, ids);
        List<String> scopes = names.stream()
                .flatMap(name -> Pause.Scope.wordsCovering(JobName.parse(name), tags).stream())
                .distinct()
                .toList();
        List<Object> values = new ArrayList<>(names);
        values.addAll(scopes);
        scopes.forEach(scope -> values.add(literal(scope) + ", %"));
        query.and(
                "(job in " + Statements.places(names.size())
                        + " or job is null and kind in ('PAUSED', 'RESUMED') and (body in "
                        + Statements.places(scopes.size()) + " or body like ? escape '!'".repeat(scopes.size()) + "))",
                values.toArray());
    }

    /** Those that any version of some jobs has carried. */
    private List<String> tags(Statements sql, List<Long> ids) {
        List<VersionReader.Stored> stored = sql.in(
                "select j.namespace, j.name, " + Rows.of("v", VersionReader.COLUMNS)
                        + " from brume_definition v join brume_job j on j.id = v.job_id where j.id in ",
                ids,
                "",
                VersionReader.Stored::of);
        return store.versions().readable(sql, stored).stream()
                .flatMap(Optional::stream)
                .flatMap(job -> job.tags().stream())
                .distinct()
                .toList();
    }

    static ChangeView change(Row row) throws SQLException {
        return new ChangeView(
                row.number("id"),
                row.instant("at"),
                new Change(
                        row.text("kind"),
                        row.text("who"),
                        row.text("host"),
                        row.optionalText("job").map(JobName::parse),
                        version(row, "version_before"),
                        version(row, "version_after"),
                        row.text("body"),
                        row.text("because")));
    }

    private static Optional<Integer> version(Row row, String column) throws SQLException {
        OptionalLong number = row.optionalNumber(column);
        return number.isPresent() ? Optional.of((int) number.getAsLong()) : Optional.empty();
    }

    @Override
    public Optional<Job> version(JobName job, int number) {
        return store.read(sql -> {
            List<VersionReader.Stored> stored = sql.query(
                    "select j.namespace, j.name, " + Rows.of("v", VersionReader.COLUMNS)
                            + " from brume_definition v join brume_job j on j.id = v.job_id where j.live_key = ? and v.number = ?",
                    VersionReader.Stored::of,
                    Rows.liveKey(job),
                    number);
            return store.versions().readable(sql, stored).stream()
                    .flatMap(Optional::stream)
                    .findFirst();
        });
    }

    @Override
    public List<NamespaceView> namespaces() {
        return store.read(sql -> {
            Map<String, AllowanceRow> allowances = JdbcOrders.allowances(sql);
            Map<String, NamespaceView> found = new TreeMap<>();
            allowances.forEach((name, row) -> found.put(name, new NamespaceView(name, 0, 0, Optional.of(row))));
            sql.query("""
                    select namespace, count(*) as jobs, sum(case when paused <> 0 then 1 else 0 end) as paused
                    from brume_job
                    where live_key is not null
                    group by namespace""", row -> {
                String name = row.text("namespace");
                return found.put(
                        name,
                        new NamespaceView(
                                name,
                                row.integer("jobs"),
                                row.integer("paused"),
                                Optional.ofNullable(allowances.get(name))));
            });
            return List.copyOf(found.values());
        });
    }

    @Override
    public List<Pause> pauses() {
        Instant at = now();
        return store.read(sql -> PauseRows.inForce(sql, at));
    }

    @Override
    public Map<JobName, JobName> renamed(Collection<JobName> names) {
        return store.read(sql -> {
            Map<JobName, JobName> renamed = new HashMap<>();
            sql.in(
                    "select f.name_key, j.namespace, j.name from brume_former_name f join brume_job j on j.id = f.job_id"
                            + " where j.live_key is not null and not exists (select 1 from brume_job n where n.live_key = f.name_key)"
                            + " and f.name_key in ",
                    names.stream().map(Rows::liveKey).toList(),
                    " order by f.until_at",
                    row -> renamed.put(JobName.parse(row.text("name_key")), Rows.jobKey(row)));
            return renamed;
        });
    }

    @Override
    public List<Pause> plannedPauses() {
        Instant at = now();
        return store.read(sql -> PauseRows.planned(sql, at));
    }

    @Override
    public Retention retention() {
        return store.read(sql -> {
            JdbcRetention steps = new JdbcRetention(sql, store.dialect(), this::now);
            return new Retention(
                    steps.total(),
                    steps.floor(),
                    steps.keptFrom(),
                    steps.appliedAt(),
                    steps.jobs(0, Integer.MAX_VALUE));
        });
    }

    @Override
    public List<Gate> gates() {
        return store.read(sql -> new JdbcGates(sql, store.dialect(), store::clock).all());
    }

    @Override
    public List<TokenRow> tokens() {
        return store.read(JdbcAccess::tokens);
    }

    @Override
    public Optional<TokenRow> token(String digest) {
        return store.read(sql -> JdbcAccess.token(sql, digest)).filter(token -> token.isGood(now()));
    }

    @Override
    public Optional<SignInRow> signIn(String digest) {
        return store.read(sql -> JdbcAccess.signIn(sql, digest))
                .filter(found -> found.isGood(now()))
                .map(JdbcAccess.Found::signIn);
    }

    @Override
    public List<TellingRow> tellings() {
        return store.read(JdbcNotices::tellings);
    }

    @Override
    public List<CauseRow> causes(boolean over, int limit) {
        return store.read(sql -> {
            List<CauseRow> all = new ArrayList<>(JdbcNotices.causes(sql, "closed_at is null", limit));
            if (over && all.size() < limit) {
                all.addAll(JdbcNotices.causes(sql, "closed_at is not null", limit - all.size()));
            }
            return all;
        });
    }

    @Override
    public List<NoticeRow> notices(NoticeFilter filter) {
        return store.read(sql -> JdbcNotices.notices(sql, filter));
    }

    @Override
    public NoticeFigures noticeFigures() {
        return store.read(JdbcNotices::figures);
    }

    @Override
    public List<NamedLeaseRow> leases() {
        return store.read(sql -> sql.query(
                "select " + JdbcNamedLeases.COLUMNS + " from brume_named_lease order by name", JdbcNamedLeases::row));
    }

    @Override
    public RollUp rollUp(Timeframe frame) {
        return store.snapshot(sql -> JdbcRollUp.of(sql, frame));
    }

    @Override
    public Map<Long, Ends> ends(Timeframe frame) {
        Query query = new Query().and("planned_at >= ? and planned_at < ?", frame.from(), frame.until());
        String took =
                store.dialect().micros("ended_at") + " - " + store.dialect().micros("started_at");
        record Group(long job, Outcome outcome, long count, long timed, long micros) {}
        List<Group> groups = store.read(sql -> {
            if (!frame.jobs().isEmpty()) {
                query.in("job_id", JobSearch.everNamed(sql, frame.jobs()));
            }
            return sql.query(
                    "select job_id, outcome, count(*), count(ended_at), cast(coalesce(sum(" + took
                            + "), 0) as decimal(30)) from brume_ledger where 1 = 1" + query
                            + " group by job_id, outcome",
                    row -> new Group(
                            row.number(1), Outcome.valueOf(row.text(2)), row.number(3), row.number(4), row.number(5)),
                    query.values());
        });
        Map<Long, List<Group>> byJob = new HashMap<>();
        groups.forEach(group ->
                byJob.computeIfAbsent(group.job, id -> new ArrayList<>()).add(group));
        Map<Long, Ends> ends = new HashMap<>();
        byJob.forEach((id, own) -> {
            Map<Outcome, Long> outcomes = new EnumMap<>(Outcome.class);
            own.forEach(group -> outcomes.put(group.outcome, group.count));
            long timed = own.stream().mapToLong(Group::timed).sum();
            long micros = own.stream().mapToLong(Group::micros).sum();
            ends.put(
                    id,
                    new Ends(
                            outcomes,
                            timed == 0
                                    ? Optional.empty()
                                    : Optional.of(Duration.of(micros / timed, ChronoUnit.MICROS))));
        });
        return ends;
    }

    @Override
    public List<RunView> lines(long beyond, IdRanges open, int limit) {
        return store.read(sql -> new JdbcSeals(sql).lines(beyond, open, limit));
    }

    @Override
    public List<ChangeView> changeLines(long beyond, IdRanges open, int limit) {
        return store.read(sql -> new JdbcSeals(sql).changes(beyond, open, limit));
    }

    @Override
    public List<SealedRow> sealedRows(SealedKind kind, long beyond, IdRanges open, int limit) {
        return store.read(sql -> new JdbcSeals(sql).rows(kind, beyond, open, limit));
    }

    @Override
    public Optional<Erasure> erasure(long run) {
        return store.read(sql -> JdbcRetention.erasure(sql, run));
    }

    @Override
    public List<Erasure> erasures(long after, int limit) {
        return store.read(sql -> JdbcRetention.erasures(sql, after, limit));
    }

    @Override
    public Past past(Instant at) {
        return store.snapshot(sql -> PastRows.at(sql, at));
    }

    @Override
    public Feed feed() {
        return new Feed() {
            @Override
            public FeedPosition end() {
                return read(FeedRows::end);
            }

            @Override
            public FeedPage after(FeedPosition position, int limit) {
                return read(rows -> rows.after(position, limit));
            }

            @Override
            public boolean needsCare(Duration listened) {
                return read(rows -> rows.needsCare(listened));
            }

            private <T> T read(Function<FeedRows, T> reading) {
                return store.read(sql -> reading.apply(new FeedRows(sql, store::clock)));
            }
        };
    }

    @Override
    public SealHead sealHead() {
        return store.read(sql -> new JdbcSeals(sql).head());
    }

    @Override
    public List<Seal> seals(long after, int limit) {
        return store.read(sql -> new JdbcSeals(sql).after(after, limit));
    }

    @Override
    public OptionalLong revision(String source) {
        return store.read(sql -> DefinitionRows.revision(sql, source));
    }

    @Override
    public Health health(Instant dueBefore) {
        List<JobName> locked = store.transact(tx -> tx.lockedDueJobs(dueBefore, MOST_LOCKED));
        String product = store.withConnection(JdbcHealth::product);
        return store.read(sql -> new JdbcHealth(sql, store.dialect(), store.schema()).look(product, locked));
    }

    @Override
    public Backlog backlog() {
        Instant now = now();
        return store.snapshot(sql -> {
            List<Backlog.Lane> lanes = sql.query(
                    "select lane, state, count(*) as runs, sum(case when ready_at <= ? then 1 else 0 end) as ready,"
                            + " min(ready_at) as oldest from brume_run group by lane, state",
                    row -> new Backlog.Lane(
                            row.text("lane"),
                            RunState.valueOf(row.text("state")),
                            row.number("runs"),
                            row.number("ready"),
                            row.optionalInstant("oldest")),
                    now);
            return sql.first(
                            "select (select count(*) from brume_job where next_at <= ?) as jobs,"
                                    + " (select min(next_at) from brume_job where next_at <= ?) as oldest_job,"
                                    + " (select count(*) from brume_one_off where made = 0 and due_at <= ?) as one_offs,"
                                    + " (select min(due_at) from brume_one_off where made = 0 and due_at <= ?) as oldest_one_off,"
                                    + " (select count(*) from brume_session where state in ('OPEN', 'DRAINING')"
                                    + " and lease_until > ?) as instances",
                            row -> new Backlog(
                                    now,
                                    lanes,
                                    row.number("jobs") + row.number("one_offs"),
                                    Stream.of(row.optionalInstant("oldest_job"), row.optionalInstant("oldest_one_off"))
                                            .flatMap(Optional::stream)
                                            .min(Instant::compareTo),
                                    row.integer("instances")),
                            now,
                            now,
                            now,
                            now,
                            now)
                    .orElseThrow();
        });
    }

    @Override
    public List<SessionView> sessions(boolean ended) {
        String condition = ended ? "" : " where s.state <> '" + SessionRow.State.ENDED + "'";
        return store.read(sql -> sql.query(
                "select " + Rows.of("s", Rows.SESSION)
                        + ", (select count(*) from brume_run r where r.session_id = s.id) as runs"
                        + " from brume_session s" + condition + " order by s.opened_at desc",
                row -> new SessionView(Rows.session(row), row.integer("runs"))));
    }
}
