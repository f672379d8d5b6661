package dev.brume.jdbc;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reasons;
import dev.brume.port.CalendarView;
import dev.brume.port.Change;
import dev.brume.port.ChangeFilter;
import dev.brume.port.ChangeView;
import dev.brume.port.Ends;
import dev.brume.port.Gate;
import dev.brume.port.Health;
import dev.brume.port.History;
import dev.brume.port.JobAccount;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.JobView;
import dev.brume.port.LeaseRow;
import dev.brume.port.OneOffView;
import dev.brume.port.Output;
import dev.brume.port.Pause;
import dev.brume.port.Progress;
import dev.brume.port.Retention;
import dev.brume.port.RunFilter;
import dev.brume.port.RunRow;
import dev.brume.port.RunView;
import dev.brume.port.SessionRow;
import dev.brume.port.SessionView;
import dev.brume.port.Span;
import dev.brume.port.SpanView;
import dev.brume.seal.IdRanges;
import dev.brume.seal.Seal;
import dev.brume.seal.SealHead;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.stream.Stream;

/** The reading side in SQL; live runs and ledger lines are read apart and merged. */
final class JdbcHistory implements History {
    private static final int MOST_LOCKED = 20;
    private static final String NOTABLE = " and (l.outcome <> 'SUCCEEDED' or l.origin <> 'SCHEDULE')";
    private static final String JOBS = "select " + Rows.of("j", Rows.JOB)
            + ", j.last_run, j.last_outcome, j.last_ended_at, v.definition, v.pins, v.tzdata, v.defined_at from brume_job j"
            + " join brume_version v on v.job_id = j.id and v.number = j.version where j.live_key is not null";
    private static final String LIVE = "select j.namespace, j.name, " + Rows.of("r", Rows.RUN)
            + ", r.progress, r.message, s.instance from brume_run r join brume_job j on j.id = r.job_id"
            + " left join brume_session s on s.id = r.session_id where 1 = 1";
    static final String ENDED =
            "select j.namespace, j.name, l.* from brume_ledger l join brume_job j on j.id = l.job_id where 1 = 1";

    /** How many of the newest lines are gone through in their order before anything else is tried. */
    private static final List<Integer> NEWEST = List.of(50_000, 1_000_000);

    private static final Comparator<RunView> NEWEST_FIRST = Comparator.comparing(
                    (RunView run) -> run.owed().planned())
            .thenComparing(RunView::id)
            .reversed();

    private final JdbcStore store;

    JdbcHistory(JdbcStore store) {
        this.store = store;
    }

    @Override
    public Instant now() {
        return store.clock();
    }

    @Override
    public List<JobView> jobs() {
        return store.read(sql -> jobs(sql, JOBS + " order by j.namespace, j.name"));
    }

    @Override
    public Optional<JobView> job(JobKey key) {
        return store.read(sql -> jobs(sql, JOBS + " and j.live_key = ?", JdbcTransaction.liveKey(key)).stream()
                .findFirst());
    }

    private List<JobView> jobs(Statements sql, String query, Object... values) {
        record Read(
                JobRow row, VersionReader.Stored version, Instant definedAt, Optional<JobAdvance.LastEnd> lastEnd) {}
        List<Read> rows = sql.query(
                query,
                row -> new Read(
                        Rows.job(row), VersionReader.Stored.of(row), row.instant("defined_at"), Rows.lastEnd(row)),
                values);
        List<Job> jobs =
                store.versions().read(sql, rows.stream().map(Read::version).toList());
        List<JobView> views = new ArrayList<>();
        for (int i = 0; i < rows.size(); i++) {
            views.add(new JobView(rows.get(i).row, jobs.get(i), rows.get(i).definedAt, rows.get(i).lastEnd));
        }
        return views;
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
        boolean noneLive = filter.outcome().isPresent() || filter.narrow().isOfTheEnded();
        List<RunView> live = noneLive ? List.of() : live(filter);
        List<RunView> ended = filter.state().isPresent() ? List.of() : ended(filter);
        return Stream.concat(live.stream(), ended.stream())
                .sorted(NEWEST_FIRST)
                .limit(filter.limit())
                .toList();
    }

    private List<RunView> live(RunFilter filter) {
        return store.read(sql -> {
            List<Object> values = new ArrayList<>();
            StringBuilder query = new StringBuilder(LIVE);
            filter.state().ifPresent(state -> query.append(" and r.state = ?").append(add(values, state)));
            jobs(sql, query, "r", filter, values);
            period(query, "r", filter, values);
            narrow(query, "r", "r.id", "s.instance", filter.narrow(), values);
            query.append(" order by r.planned_at desc, r.id desc limit ?").append(add(values, filter.limit()));
            return sql.query(query.toString(), JdbcHistory::liveRun, values.toArray());
        });
    }

    /**
     * Looks among the newest lines first, in their order, and among more of them then. What comes up there too seldom is looked
     * for everywhere, and put in order afterwards, so that the database goes by what is seldom rather than through all lines
     * from the newest back.
     */
    private List<RunView> ended(RunFilter filter) {
        if (!isSeldom(filter)) {
            return store.read(sql -> ended(sql, filter, Optional.empty(), /* fenced= */ false));
        }
        return store.snapshot(sql -> {
            for (int newest : NEWEST) {
                Optional<Instant> since = sql.first(
                        "select planned_at from brume_ledger order by planned_at desc limit 1 offset " + newest,
                        row -> row.instant("planned_at"));
                List<RunView> found = ended(sql, filter, since, /* fenced= */ false);
                if (found.size() == filter.limit() || since.isEmpty()) {
                    return found;
                }
            }
            store.dialect().withoutReadingAll(sql);
            return ended(sql, filter, Optional.empty(), /* fenced= */ true);
        });
    }

    private static boolean isSeldom(RunFilter filter) {
        return filter.job().isPresent()
                || filter.narrow().tag().isPresent()
                || filter.narrow().instance().isPresent();
    }

    private List<RunView> ended(Statements sql, RunFilter filter, Optional<Instant> since, boolean fenced) {
        List<Object> values = new ArrayList<>();
        StringBuilder query = new StringBuilder();
        since.ifPresent(at -> query.append(" and l.planned_at >= ?").append(add(values, at)));
        filter.outcome().ifPresent(outcome -> query.append(" and l.outcome = ?").append(add(values, outcome)));
        jobs(sql, query, "l", filter, values);
        period(query, "l", filter, values);
        filter.narrow()
                .reason()
                .ifPresent(reason -> query.append(" and l.reason = ?").append(add(values, reason)));
        filter.narrow()
                .error()
                .ifPresent(text ->
                        query.append(" and lower(l.error) like ? escape '!'").append(add(values, within(text))));
        narrow(query, "l", "l.run_id", "l.instance", filter.narrow(), values);
        query.append(isNotable(filter) ? NOTABLE : "");
        String lines =
                fenced ? "(select l.* from brume_ledger l where 1 = 1" + query + " offset 0 rows)" : "brume_ledger";
        values.add(filter.limit());
        return sql.query(
                "select j.namespace, j.name, l.* from " + lines + " l join brume_job j on j.id = l.job_id where 1 = 1"
                        + (fenced ? "" : query) + " order by l.planned_at desc, l.run_id desc limit ?",
                JdbcHistory::endedRun,
                values.toArray());
    }

    /** {@return whether only lines can match that a small index has; the condition is written out so that the database sees it} */
    private static boolean isNotable(RunFilter filter) {
        boolean bad =
                filter.outcome().filter(outcome -> outcome != Outcome.SUCCEEDED).isPresent();
        boolean unusual = filter.narrow()
                .origin()
                .filter(origin -> origin != Origin.SCHEDULE)
                .isPresent();
        return bad
                || unusual
                || filter.narrow().error().isPresent()
                || filter.narrow().reason().isPresent();
    }

    /** The jobs that are meant, dropped ones of that name included, by id: so that the database knows how often they come up. */
    private void jobs(Statements sql, StringBuilder query, String table, RunFilter filter, List<Object> values) {
        if (filter.job().isEmpty() && filter.narrow().tag().isEmpty()) {
            return;
        }
        List<Long> jobs = new ArrayList<>(filter.job()
                .map(key -> sql.query(
                        "select id from brume_job where namespace = ? and name = ?",
                        row -> row.number("id"),
                        key.namespace(),
                        key.name()))
                .orElseGet(() -> carrying(sql, filter.narrow().tag().get())));
        if (filter.job().isPresent()) {
            filter.narrow().tag().ifPresent(tag -> jobs.retainAll(carrying(sql, tag)));
        }
        query.append(jobs.isEmpty() ? " and 1 = 0" : " and " + table + ".job_id in " + Statements.places(jobs.size()));
        values.addAll(jobs);
    }

    private static void period(StringBuilder query, String table, RunFilter filter, List<Object> values) {
        filter.from()
                .ifPresent(from -> query.append(" and ")
                        .append(table)
                        .append(".planned_at >= ?")
                        .append(add(values, from)));
        filter.until()
                .ifPresent(until -> query.append(" and ")
                        .append(table)
                        .append(".planned_at < ?")
                        .append(add(values, until)));
    }

    private static String within(String text) {
        String plain = text.toLowerCase(Locale.ROOT)
                .replace("!", "!!")
                .replace("%", "!%")
                .replace("_", "!_");
        return "%" + plain + "%";
    }

    private static void narrow(
            StringBuilder query,
            String table,
            String id,
            String instance,
            RunFilter.Narrow narrow,
            List<Object> values) {
        narrow.instance()
                .ifPresent(name ->
                        query.append(" and ").append(instance).append(" = ?").append(add(values, name)));
        narrow.origin()
                .ifPresent(origin -> query.append(" and ")
                        .append(table)
                        .append(".origin = ?")
                        .append(add(values, origin)));
        narrow.below().ifPresent(below -> {
            String planned = table + ".planned_at";
            query.append(" and ")
                    .append(planned)
                    .append(" <= ? and (")
                    .append(planned)
                    .append(" < ? or ");
            query.append(id).append(" < ?)");
            values.addAll(List.of(below.planned(), below.planned(), below.run()));
        });
    }

    /** The jobs that carry a tag in their definition in force; dropped ones by their last. */
    private List<Long> carrying(Statements sql, String tag) {
        record Read(long job, VersionReader.Stored stored) {}
        List<Read> likely = sql.query(
                "select j.id, j.namespace, j.name, " + Rows.of("v", VersionReader.COLUMNS)
                        + " from brume_job j join brume_version v on v.job_id = j.id and v.number = j.version"
                        + " where v.definition like ?",
                row -> new Read(row.number("id"), VersionReader.Stored.of(row)),
                "%\"" + tag + "\"%");
        List<Optional<Job>> jobs =
                store.versions().readable(sql, likely.stream().map(Read::stored).toList());
        List<Long> carrying = new ArrayList<>();
        for (int i = 0; i < jobs.size(); i++) {
            if (jobs.get(i).filter(job -> job.tags().contains(tag)).isPresent()) {
                carrying.add(likely.get(i).job);
            }
        }
        return carrying;
    }

    /** Adds a value where its place is written; yields nothing to append. */
    private static String add(List<Object> values, Object value) {
        values.add(value);
        return "";
    }

    private static RunView liveRun(Row row) throws SQLException {
        RunRow run = Rows.run(row);
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        String instance = row.text("instance");
        run.lease()
                .ifPresent(lease -> attempts.add(Attempt.begun(
                        run.attempt(),
                        instance == null ? "unknown" : instance,
                        lease.session(),
                        lease.fence(),
                        lease.since())));
        return new RunView(
                run.id(),
                Rows.jobKey(row),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                Optional.of(run.state()),
                progress(row),
                Optional.empty(),
                Optional.empty(),
                attempts,
                run.payloadOnRecord(),
                Optional.empty(),
                Map.of());
    }

    private static Optional<Progress> progress(Row row) throws SQLException {
        OptionalLong percent = row.optionalNumber("progress");
        return percent.isEmpty()
                ? Optional.empty()
                : Optional.of(new Progress((int) percent.getAsLong(), row.text("message")));
    }

    static RunView endedRun(Row row) throws SQLException {
        Outcome outcome = Outcome.valueOf(row.text("outcome"));
        List<Attempt> attempts = new ArrayList<>(Json.attempts(row.optionalText("earlier")));
        Optional<UUID> session = row.optionalUuid("session_id");
        if (session.isPresent()) {
            attempts.add(new Attempt(
                    row.integer("attempt"),
                    row.text("instance"),
                    session.get(),
                    row.number("fence"),
                    row.instant("started_at"),
                    row.optionalInstant("ended_at"),
                    Optional.of(endOf(outcome, row.optionalText("reason"))),
                    row.optionalText("error")));
        }
        return new RunView(
                row.number("run_id"),
                Rows.jobKey(row),
                Rows.owed(row),
                row.integer("version"),
                row.text("lane"),
                row.instant("ready_at"),
                Optional.empty(),
                Optional.empty(),
                Optional.of(outcome),
                row.optionalText("reason"),
                attempts,
                row.optionalText("payload"),
                row.optionalText("result"),
                Map.of());
    }

    /** The last attempt ended as the run did. */
    private static AttemptEnd endOf(Outcome outcome, Optional<String> reason) {
        return switch (outcome) {
            case SUCCEEDED -> AttemptEnd.SUCCEEDED;
            case FAILED -> AttemptEnd.FAILED;
            case TIMED_OUT -> AttemptEnd.TIMED_OUT;
            case LOST -> AttemptEnd.LOST;
            case CANCELLED, SKIPPED ->
                switch (reason.orElse("")) {
                    case Reasons.SUPERSEDED -> AttemptEnd.SUPERSEDED;
                    case Reasons.TURNED_DOWN -> AttemptEnd.TURNED_DOWN;
                    default -> AttemptEnd.CANCELLED;
                };
        };
    }

    @Override
    public Optional<RunView> run(long id) {
        return store.read(sql -> {
            Optional<RunView> live = sql.first(LIVE + " and r.id = ?", JdbcHistory::liveRun, id);
            Optional<RunView> found =
                    live.isPresent() ? live : sql.first(ENDED + " and l.run_id = ?", JdbcHistory::endedRun, id);
            Map<Integer, Output> outputs = new TreeMap<>();
            sql.query(
                    "select attempt, body, bytes, omitted from brume_output where run_id = ?",
                    row -> outputs.put(row.integer(1), new Output(row.text(2), row.number(3), row.number(4))),
                    id);
            return found.map(run -> run.with(outputs));
        });
    }

    private static final String ONE_OFFS =
            "select j.namespace, j.name, o.one_off_key, o.due_at, o.payload, o.ordered_by, o.run_id from brume_one_off o"
                    + " join brume_job j on j.id = o.job_id where j.live_key is not null";

    private static OneOffView oneOff(Row row) throws SQLException {
        OptionalLong run = row.optionalNumber("run_id");
        return new OneOffView(
                Rows.jobKey(row),
                row.text("one_off_key"),
                row.instant("due_at"),
                row.optionalText("payload"),
                row.text("ordered_by"),
                run.isPresent() ? Optional.of(run.getAsLong()) : Optional.empty());
    }

    @Override
    public List<OneOffView> oneOffs(Optional<JobKey> job, int limit) {
        List<Object> values = new ArrayList<>();
        job.ifPresent(key -> values.add(JdbcTransaction.liveKey(key)));
        values.add(limit);
        return store.read(sql -> sql.query(
                ONE_OFFS + " and o.run_id is null and o.parent_run is null"
                        + (job.isPresent() ? " and j.live_key = ?" : "") + " order by o.due_at, o.id limit ?",
                JdbcHistory::oneOff,
                values.toArray()));
    }

    @Override
    public Optional<OneOffView> oneOff(JobKey job, String key) {
        return store.read(sql -> sql.first(
                ONE_OFFS + " and j.live_key = ? and o.one_off_key = ?",
                JdbcHistory::oneOff,
                JdbcTransaction.liveKey(job),
                key));
    }

    @Override
    public List<SpanView> spans(RunFilter filter) {
        List<Object> values = new ArrayList<>();
        StringBuilder query = new StringBuilder(
                "select j.namespace, j.name, s.* from brume_span s join brume_job j on j.id = s.job_id where 1 = 1");
        filter.job().ifPresent(key -> {
            query.append(" and j.namespace = ? and j.name = ?");
            values.add(key.namespace());
            values.add(key.name());
        });
        filter.from().ifPresent(from -> query.append(" and s.until_at > ?").append(add(values, from)));
        filter.until().ifPresent(until -> query.append(" and s.from_at < ?").append(add(values, until)));
        query.append(" order by s.from_at desc limit ?").append(add(values, filter.limit()));
        return store.read(sql -> sql.query(query.toString(), JdbcHistory::span, values.toArray()));
    }

    private static SpanView span(Row row) throws SQLException {
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
    public void accounts(Optional<JobKey> job, Instant from, Instant until, Consumer<JobAccount> receiver) {
        store.snapshot(sql -> {
            new JdbcAccounts(sql, store.dialect(), store.versions(), from, until, receiver).read(job);
            return null;
        });
    }

    @Override
    public List<ChangeView> changes(ChangeFilter filter) {
        List<Object> values = new ArrayList<>();
        StringBuilder query = new StringBuilder("select * from brume_change where 1 = 1");
        filter.job().ifPresent(key -> query.append(" and job = ?").append(add(values, JdbcTransaction.liveKey(key))));
        filter.kind().ifPresent(kind -> query.append(" and kind = ?").append(add(values, kind)));
        filter.who().ifPresent(who -> query.append(" and who = ?").append(add(values, who)));
        filter.from().ifPresent(from -> query.append(" and at >= ?").append(add(values, from)));
        filter.until().ifPresent(until -> query.append(" and at < ?").append(add(values, until)));
        filter.before().ifPresent(before -> query.append(" and id < ?").append(add(values, before)));
        query.append(" order by id desc limit ?").append(add(values, filter.limit()));
        return store.read(sql -> sql.query(query.toString(), JdbcHistory::change, values.toArray()));
    }

    static ChangeView change(Row row) throws SQLException {
        return new ChangeView(
                row.number("id"),
                row.instant("at"),
                new Change(
                        row.text("kind"),
                        row.text("who"),
                        row.text("origin"),
                        row.optionalText("job").map(JobKey::parse),
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
    public Optional<Job> version(JobKey job, int number) {
        return store.read(sql -> {
            List<VersionReader.Stored> stored = sql.query(
                    "select j.namespace, j.name, " + Rows.of("v", VersionReader.COLUMNS)
                            + " from brume_version v join brume_job j on j.id = v.job_id where j.live_key = ? and v.number = ?",
                    VersionReader.Stored::of,
                    JdbcTransaction.liveKey(job),
                    number);
            return store.versions().readable(sql, stored).stream()
                    .flatMap(Optional::stream)
                    .findFirst();
        });
    }

    @Override
    public List<Pause> pauses() {
        return store.read(JdbcOrders::pauses);
    }

    @Override
    public Retention retention() {
        return store.read(sql -> {
            JdbcRetention steps = new JdbcRetention(sql, store.dialect(), this::now);
            return new Retention(steps.total(), steps.keptFrom(), steps.jobs(0, Integer.MAX_VALUE));
        });
    }

    @Override
    public List<Gate> gates() {
        return store.read(sql -> new JdbcGates(sql).all());
    }

    @Override
    public List<LeaseRow> leases() {
        return store.read(
                sql -> sql.query("select " + JdbcLeases.COLUMNS + " from brume_lease order by name", JdbcLeases::row));
    }

    @Override
    public Map<Long, Ends> ends(Optional<JobKey> job, Instant from, Instant until) {
        List<Object> values = new ArrayList<>(List.of(from, until));
        job.ifPresent(key -> values.addAll(List.of(key.namespace(), key.name())));
        String took =
                store.dialect().micros("ended_at") + " - " + store.dialect().micros("started_at");
        record Group(long job, Outcome outcome, long count, long timed, long micros) {}
        List<Group> groups = store.read(sql -> sql.query(
                "select job_id, outcome, count(*), count(ended_at), cast(coalesce(sum(" + took
                        + "), 0) as decimal(30)) from brume_ledger where planned_at >= ? and planned_at < ?"
                        + (job.isPresent()
                                ? " and job_id in (select id from brume_job where namespace = ? and name = ?)"
                                : "")
                        + " group by job_id, outcome",
                row -> new Group(
                        row.number(1), Outcome.valueOf(row.text(2)), row.number(3), row.number(4), row.number(5)),
                values.toArray()));
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
        List<JobKey> locked = store.transact(tx -> tx.lockedDueJobs(dueBefore, MOST_LOCKED));
        String product = store.withConnection(JdbcHealth::product);
        return store.read(sql -> new JdbcHealth(sql, store.dialect(), store.schema()).look(product, locked));
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
