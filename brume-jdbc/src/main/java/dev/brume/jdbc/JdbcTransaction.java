package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.places;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.CalendarKey;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.document.JobDocument;
import dev.brume.port.Ability;
import dev.brume.port.AfterEnd;
import dev.brume.port.CalendarRow;
import dev.brume.port.Change;
import dev.brume.port.Claim;
import dev.brume.port.Fence;
import dev.brume.port.GateSteps;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.LeaseKey;
import dev.brume.port.LeaseSteps;
import dev.brume.port.LedgerLine;
import dev.brume.port.NewJob;
import dev.brume.port.Numbers;
import dev.brume.port.OneOffSteps;
import dev.brume.port.OrderSteps;
import dev.brume.port.Output;
import dev.brume.port.ProgressNote;
import dev.brume.port.Recount;
import dev.brume.port.Redefinition;
import dev.brume.port.Renewal;
import dev.brume.port.RetentionSteps;
import dev.brume.port.RunEnd;
import dev.brume.port.RunRelease;
import dev.brume.port.RunRow;
import dev.brume.port.SealSteps;
import dev.brume.port.SessionLease;
import dev.brume.port.SessionRow;
import dev.brume.port.Settle;
import dev.brume.port.Span;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Supplier;

/**
 * The steps in SQL that every database understands, row by row in JDBC batches.
 *
 * <p>States of a run, as rows: PLANNED and BACKING_OFF can be claimed; RUNNING alone has session_id, fence
 * and leased_at; HELD has no place of its job. A lease is checked by (session_id, fence) in the same
 * statement that changes the row.
 */
class JdbcTransaction implements Transaction {
    private static final String INSERT_RUN =
            "insert into brume_run (" + Rows.RUN + ", one_off_key, follow_up) values " + places(29);
    private static final String INSERT_LINE =
            "insert into brume_ledger (run_id, job_id, planned_at, slot, origin, nominal,"
                    + " zone, note, version, lane, ready_at, outcome, reason, attempt, instance, session_id, fence, started_at,"
                    + " ended_at, error, earlier, payload, result, one_off_key, parent_run, follow_up, ordered_by, recorded_at) values "
                    + places(28);

    private static final Set<AttemptEnd> ENDS_OF_UNWANTED =
            Set.of(AttemptEnd.CANCELLED, AttemptEnd.SUPERSEDED, AttemptEnd.TURNED_DOWN);

    /** Passes over jobs whose definitions are for newer instances. */
    static final String READABLE = " and format <= " + JobDocument.FORMAT;

    protected final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> outerClock;
    private final DefinitionRows definitions;
    private final SessionRows sessions;

    /**
     * Begins the steps of a transaction.
     *
     * @param versions makes jobs of stored versions
     * @param outerClock reads the database's clock outside the transaction
     */
    JdbcTransaction(Statements sql, Dialect dialect, VersionReader versions, Supplier<Instant> outerClock) {
        this.sql = sql;
        this.dialect = dialect;
        this.outerClock = outerClock;
        this.definitions = new DefinitionRows(sql, dialect, versions, this::now);
        this.sessions = new SessionRows(sql, dialect, this::now);
    }

    @Override
    public GateSteps gates() {
        return new JdbcGates(sql);
    }

    @Override
    public OneOffSteps oneOffs() {
        return new JdbcOneOffs(sql, dialect);
    }

    @Override
    public Instant now() {
        return dialect.clockStandsStill()
                ? outerClock.get()
                : sql.first("select " + dialect.clock() + " as clock", row -> row.instant("clock"))
                        .orElseThrow();
    }

    // Definitions.

    @Override
    public void lockDefinitions() {
        sql.query("select id from brume_cluster where id = 1 for update", row -> row.integer(1));
    }

    @Override
    public Map<JobKey, JobRow> findJobs(Collection<JobKey> keys) {
        return jobs(keys, "");
    }

    @Override
    public Map<JobKey, JobRow> lockJobs(Collection<JobKey> keys) {
        return jobs(keys, " order by id for update");
    }

    private Map<JobKey, JobRow> jobs(Collection<JobKey> keys, String lock) {
        Map<JobKey, JobRow> found = new HashMap<>();
        List<String> live = keys.stream().map(JdbcTransaction::liveKey).toList();
        sql.in("select " + Rows.JOB + " from brume_job where live_key in ", live, lock, Rows::job)
                .forEach(row -> found.put(row.key(), row));
        return found;
    }

    static String liveKey(JobKey key) {
        return key.namespace() + "/" + key.name();
    }

    @Override
    public List<Long> addJobs(List<NewJob> jobs) {
        return definitions.add(jobs, this::findJobs);
    }

    @Override
    public void redefine(List<Redefinition> changes) {
        definitions.redefine(changes);
    }

    @Override
    public void drop(long job) {
        definitions.drop(job);
    }

    @Override
    public void addChanges(List<Change> changes) {
        definitions.addChanges(changes);
    }

    @Override
    public Map<VersionKey, Job> definitions(Collection<VersionKey> keys) {
        return definitions.read(keys);
    }

    @Override
    public OptionalLong revision(String source) {
        return definitions.revision(source);
    }

    @Override
    public void revision(String source, long number, String who) {
        definitions.revision(source, number, who);
    }

    // Calendars and zone rules.

    @Override
    public Map<CalendarKey, CalendarRow> calendars(Collection<CalendarKey> keys) {
        return CalendarRows.newest(sql, keys);
    }

    @Override
    public void addCalendars(List<CalendarRow> added) {
        CalendarRows.add(sql, added, now());
    }

    @Override
    public List<JobRow> lockJobsUsing(CalendarKey calendar, int otherThan, int limit) {
        List<Long> ids = sql.query(
                "select u.job_id from brume_calendar_use u join brume_job j on j.id = u.job_id"
                        + " where u.namespace = ? and u.name = ? and u.number <> ? and j.live_key is not null"
                        + " order by u.job_id limit ?",
                row -> row.number(1),
                calendar.namespace(),
                calendar.name(),
                otherThan,
                limit);
        return List.copyOf(lockJobsById(ids).values());
    }

    @Override
    public List<JobRow> lockJobsAfter(long id, int limit) {
        List<Long> ids = sql.query(
                "select id from brume_job where id > ? and live_key is not null order by id limit ?",
                row -> row.number(1),
                id,
                limit);
        return List.copyOf(lockJobsById(ids).values());
    }

    @Override
    public String tzdata() {
        return sql.first(
                        "select tzdata from brume_cluster where id = 1",
                        row -> Optional.ofNullable(row.text(1)).orElse(""))
                .orElse("");
    }

    @Override
    public void tzdata(String version) {
        sql.update("update brume_cluster set tzdata = ? where id = 1", version);
    }

    // Planning.

    @Override
    public List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, int limit) {
        Instant clock = now();
        Instant now = trusted.filter(limited -> limited.isBefore(clock)).orElse(clock);
        List<Object> values = new ArrayList<>(List.of(now));
        hint.ifPresent(values::add);
        values.add(limit);
        List<Long> due = sql.query(
                "select id from brume_job where next_at <= ?" + READABLE + (hint.isPresent() ? " and next_at >= ?" : "")
                        + " order by next_at limit ?",
                row -> row.number(1),
                values.toArray());
        return Statements.chunked(due, chunk -> {
            List<Object> keys = new ArrayList<>(chunk);
            keys.add(now);
            return sql.query(
                    "select " + Rows.JOB + " from brume_job where id in " + places(chunk.size())
                            + " and next_at <= ? for update skip locked",
                    Rows::job,
                    keys.toArray());
        });
    }

    @Override
    public List<JobKey> lockedDueJobs(Instant dueBefore, int limit) {
        String due = "select id, namespace, name from brume_job where next_at <= ? order by next_at limit ?";
        Map<Long, JobKey> names = new LinkedHashMap<>();
        sql.query(due, row -> names.put(row.number("id"), Rows.jobKey(row)), dueBefore, limit);
        sql.in(
                        "select id from brume_job where id in ",
                        names.keySet(),
                        " for update skip locked",
                        row -> row.number("id"))
                .forEach(names::remove);
        return List.copyOf(names.values());
    }

    @Override
    public Map<Long, JobRow> lockJobsById(Collection<Long> ids) {
        Map<Long, JobRow> found = new LinkedHashMap<>();
        sql.in(
                        "select " + Rows.JOB + " from brume_job where id in ",
                        new TreeSet<>(ids),
                        " order by id for update",
                        Rows::job)
                .forEach(row -> found.put(row.id(), row));
        return found;
    }

    @Override
    public void advance(List<JobAdvance> changes) {
        List<JobAdvance> ends =
                changes.stream().filter(change -> change.lastEnd().isPresent()).toList();
        sql.batch(
                "update brume_job set cursor_at = ?, next_at = case when paused = 0 then " + dialect.instantPlace()
                        + " end, used = ?, waiting = ? where id = ?",
                changes,
                (parameters, change) ->
                        parameters.all(change.cursor(), change.nextAt(), change.used(), change.waiting(), change.id()));
        advanceAfterEnds(changes);
        if (!ends.isEmpty()) {
            sql.batch(
                    "update brume_job set last_run = ?, last_outcome = ?, last_ended_at = ? where id = ?"
                            + " and (last_ended_at is null or last_ended_at <= ?)",
                    ends,
                    (parameters, change) -> {
                        JobAdvance.LastEnd end = change.lastEnd().orElseThrow();
                        parameters.all(end.run(), end.outcome(), end.at(), change.id(), end.at());
                    });
        }
    }

    /** Few jobs have a schedule that goes by the ends of runs; theirs is a statement of its own. */
    protected final void advanceAfterEnds(List<JobAdvance> changes) {
        List<JobAdvance> afterEnds =
                changes.stream().filter(change -> change.afterEnd().isPresent()).toList();
        if (!afterEnds.isEmpty()) {
            sql.batch(
                    "update brume_job set end_due_at = ?, end_run = ? where id = ?",
                    afterEnds,
                    (parameters, change) -> parameters.all(
                            change.afterEnd().flatMap(AfterEnd::due),
                            change.afterEnd().flatMap(AfterEnd::run),
                            change.id()));
        }
    }

    @Override
    public Numbers take(int count) {
        List<Long> fences = new ArrayList<>(count);
        List<Long> ids = sql.query(dialect.freshNumbers(count), row -> {
            fences.add(row.number(2));
            return row.number(1);
        });
        return new Numbers(ids, fences);
    }

    private List<Long> freshFences(int count) {
        return sql.query(dialect.freshFences(count), row -> row.number(1));
    }

    @Override
    public void addRuns(List<RunRow> runs) {
        sql.batch(INSERT_RUN, runs, (parameters, run) -> {
            RunRow.Owed owed = run.owed();
            parameters.all(
                    run.id(),
                    owed.job(),
                    owed.planned(),
                    owed.slot(),
                    owed.origin(),
                    owed.nominal().toString(),
                    owed.zone(),
                    owed.note(),
                    run.version(),
                    run.state(),
                    run.lane(),
                    run.priority(),
                    run.needs().handler(),
                    Rows.joinLabels(run.needs().labels()),
                    run.needs().session(),
                    run.readyAt(),
                    run.lease().map(RunRow.Lease::session),
                    run.lease().map(RunRow.Lease::fence),
                    run.lease().map(RunRow.Lease::since),
                    Json.attempts(run.attempts()),
                    run.attempt(),
                    run.payload(),
                    GateKey.join(run.gates()),
                    run.startBy(),
                    owed.parent(),
                    run.shownPayload(),
                    owed.orderedBy(),
                    owed.oneOffKey(),
                    followUp(owed));
        });
    }

    /** Tells apart what follows one run: each job at most once. */
    private static Optional<String> followUp(RunRow.Owed owed) {
        return owed.parent().map(parent -> Long.toString(owed.job()));
    }

    /** The attempt that ended as the run did: a run that ended while it waited had only earlier ones. */
    private static Optional<Attempt> lastWithTheRun(LedgerLine line) {
        boolean waited = line.outcome() == Outcome.CANCELLED || line.outcome() == Outcome.SKIPPED;
        return line.attempts().stream()
                .reduce((a, b) -> b)
                .filter(last ->
                        !waited || last.end().filter(ENDS_OF_UNWANTED::contains).isPresent());
    }

    @Override
    public void addLines(List<LedgerLine> lines) {
        Instant recorded = now();
        sql.batch(INSERT_LINE, lines, (parameters, line) -> {
            RunRow.Owed owed = line.owed();
            Optional<Attempt> last = lastWithTheRun(line);
            int earlier = line.attempts().size() - (last.isPresent() ? 1 : 0);
            parameters.all(
                    line.run(),
                    owed.job(),
                    owed.planned(),
                    owed.slot(),
                    owed.origin(),
                    owed.nominal().toString(),
                    owed.zone(),
                    owed.note(),
                    line.version(),
                    line.lane(),
                    line.readyAt(),
                    line.outcome(),
                    line.reason(),
                    last.map(Attempt::number).orElse(0),
                    last.map(Attempt::instance),
                    last.map(Attempt::session),
                    last.map(Attempt::fence),
                    last.map(Attempt::startedAt),
                    last.flatMap(Attempt::endedAt),
                    last.flatMap(Attempt::error),
                    Json.attempts(line.attempts().subList(0, earlier)),
                    line.payload(),
                    line.result(),
                    owed.oneOffKey(),
                    owed.parent(),
                    followUp(owed),
                    owed.orderedBy(),
                    recorded);
        });
    }

    @Override
    public void addSpans(List<Span> spans) {
        sql.batch(
                "insert into brume_span (job_id, from_at, until_at, version, first_at, last_at, occurrences, reason)"
                        + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                spans,
                (parameters, span) -> parameters.all(
                        span.job(),
                        span.from(),
                        span.until(),
                        span.version(),
                        span.first(),
                        span.last(),
                        span.count(),
                        span.reason()));
    }

    // Running.

    @Override
    public List<RunRow> claim(Claim claim) {
        Instant now = now();
        List<Long> ready = ready(claim, now);
        List<RunRow> locked = sql.in(
                "select " + Rows.RUN + " from brume_run where id in ",
                ready,
                " and state in ('PLANNED', 'BACKING_OFF') for update skip locked",
                Rows::run);
        List<RunRow> leased = new ArrayList<>();
        List<Long> fences = locked.isEmpty() ? List.of() : freshFences(locked.size());
        for (RunRow run : locked) {
            long fence = Fence.of(claim.epoch(), fences.get(leased.size()));
            RunRow.Lease lease = new RunRow.Lease(claim.session(), fence, now);
            leased.add(
                    run.moved(RunState.RUNNING, run.readyAt(), Optional.of(lease), run.attempts(), run.attempt() + 1));
        }
        sql.batch(
                "update brume_run set state = 'RUNNING', session_id = ?, fence = ?, leased_at = ?, attempt = ?, start_by = null"
                        + " where id = ?",
                leased,
                (parameters, run) -> {
                    RunRow.Lease lease = run.lease().orElseThrow();
                    parameters.all(lease.session(), lease.fence(), lease.since(), run.attempt(), run.id());
                });
        leased.sort(Comparator.comparingInt(run -> ready.indexOf(run.id())));
        return leased;
    }

    /** Reads the ids of runs that may be claimed, in claim order, locking nothing. */
    private List<Long> ready(Claim claim, Instant now) {
        List<Ready> ready = new ArrayList<>();
        for (int priority = 9; priority >= 0 && (claim.oldestFirst() || ready.size() < claim.limit()); priority--) {
            int wanted = claim.oldestFirst() ? claim.limit() : claim.limit() - ready.size();
            ready.addAll(ready(claim, priority, now, wanted));
        }
        if (claim.oldestFirst()) {
            ready.sort(Comparator.comparing(Ready::since).thenComparing(Ready::run));
        }
        return ready.stream().map(Ready::run).limit(claim.limit()).toList();
    }

    private record Ready(long run, Instant since) {}

    private List<Ready> ready(Claim claim, int priority, Instant now, int limit) {
        List<Object> values = new ArrayList<>(List.of(claim.lane(), priority, now, now));
        claim.hint().ifPresent(values::add);
        String met = needsMet(claim.ability(), values);
        values.add(limit);
        String ready = dialect.readyColumn();
        return sql.query(
                "select id, ready_at from brume_run where state in ('PLANNED', 'BACKING_OFF') and lane = ? and priority = ? and "
                        + ready + " <= ? and (start_by is null or start_by > ?)"
                        + (claim.hint().isPresent() ? " and " + ready + " >= ?" : "") + met
                        + " order by " + ready + ", id limit ?",
                row -> new Ready(row.number("id"), row.instant("ready_at")),
                values.toArray());
    }

    /**
     * The condition that an instance has what a run needs; adds its values. Of the labels that a run needs, those that the
     * instance carries are struck out, and nothing may be left.
     */
    static String needsMet(Ability ability, List<Object> values) {
        String handler = ability.handlers().isEmpty()
                ? " and handler is null"
                : " and (handler is null or handler in "
                        + places(ability.handlers().size()) + ")";
        values.addAll(ability.handlers());
        List<String> labels = ability.labels().stream().sorted().toList();
        String left = "labels";
        for (String label : labels) {
            left = "replace(" + left + ", ?, '')";
            values.add("/" + label + "/");
        }
        String labelled = labels.isEmpty() ? " and labels is null" : " and (labels is null or " + left + " = '')";
        ability.session().ifPresent(values::add);
        String only = ability.session().isEmpty()
                ? " and only_session is null"
                : " and (only_session is null or only_session = ?)";
        return handler + labelled + only;
    }

    @Override
    public Set<LeaseKey> end(List<RunEnd> ends) {
        Map<LeaseKey, RunRow> held = lockLeased(ends.stream().map(RunEnd::lease).toList());
        List<Accepted> accepted = ends.stream()
                .flatMap(end -> Optional.ofNullable(held.get(end.lease())).map(run -> new Accepted(run, end)).stream())
                .sorted(Comparator.comparing(each -> each.run.id()))
                .toList();
        sql.batch("delete from brume_run where id = ?", accepted, (parameters, each) -> parameters.add(each.run.id()));
        addLines(accepted.stream().map(each -> line(each.run, each.end)).toList());
        sql.batch(
                "insert into brume_settle (run_id, job_id, version, outcome, ended_at, gates) values (?, ?, ?, ?, ?, ?)",
                accepted,
                (parameters, each) -> parameters.all(
                        each.run.id(),
                        each.run.owed().job(),
                        each.run.version(),
                        each.end.outcome(),
                        each.end.last().endedAt(),
                        GateKey.join(each.run.gates())));
        accepted.forEach(each -> addOutput(each.run.id(), each.end.last(), each.end.output()));
        return Set.copyOf(held.keySet());
    }

    /** An end that counts, and the run as it was leased. */
    private record Accepted(RunRow run, RunEnd end) {}

    /** Locks those runs that are still leased as stated. */
    private Map<LeaseKey, RunRow> lockLeased(List<LeaseKey> leases) {
        Map<LeaseKey, RunRow> held = new LinkedHashMap<>();
        Set<LeaseKey> stated = new HashSet<>(leases);
        List<Long> ids = leases.stream().map(LeaseKey::run).distinct().sorted().toList();
        sql
                .in(
                        "select " + Rows.RUN + " from brume_run where id in ",
                        ids,
                        " and session_id is not null order by id for update",
                        Rows::run)
                .stream()
                .filter(run -> stated.contains(run.leaseKey()))
                .forEach(run -> held.put(run.leaseKey(), run));
        return held;
    }

    private static LedgerLine line(RunRow run, RunEnd end) {
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        attempts.add(end.last());
        return new LedgerLine(
                run.id(),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                end.outcome(),
                end.reason(),
                attempts,
                run.payloadOnRecord(),
                end.result());
    }

    protected void addOutput(long run, Attempt attempt, Optional<Output> output) {
        output.ifPresent(printed -> sql.update(
                "insert into brume_output (run_id, attempt, body, bytes, omitted) values (?, ?, ?, ?, ?)",
                run,
                attempt.number(),
                printed.text(),
                printed.bytes(),
                printed.omitted()));
    }

    @Override
    public Set<LeaseKey> release(List<RunRelease> releases) {
        Map<LeaseKey, RunRow> held =
                lockLeased(releases.stream().map(RunRelease::lease).toList());
        List<RunRelease> accepted = releases.stream()
                .filter(release -> held.containsKey(release.lease()))
                .sorted(Comparator.comparing(release -> release.lease().run()))
                .toList();
        sql.batch(
                "update brume_run set state = ?, ready_at = ?, attempts = ?, session_id = null, fence = null,"
                        + " leased_at = null, progress = null, message = null where id = ?",
                accepted,
                (parameters, release) -> parameters.all(
                        release.state(),
                        release.readyAt(),
                        Json.attempts(release.attempts()),
                        release.lease().run()));
        for (RunRelease release : accepted) {
            release.output()
                    .ifPresent(output -> addOutput(
                            release.lease().run(),
                            release.attempts().get(release.attempts().size() - 1),
                            release.output()));
        }
        return Set.copyOf(held.keySet());
    }

    @Override
    public boolean holdLease(LeaseKey lease) {
        return lockLeased(List.of(lease)).containsKey(lease);
    }

    @Override
    public void progress(List<ProgressNote> notes) {
        sql.batch(
                "update brume_run set progress = ?, message = ? where id = ? and session_id = ? and fence = ?",
                notes,
                (parameters, note) -> parameters.all(
                        note.percent(),
                        note.message(),
                        note.lease().run(),
                        note.lease().session(),
                        note.lease().fence()));
    }

    @Override
    public boolean ended(LeaseKey lease) {
        return sql.first(
                        "select run_id from brume_ledger where run_id = ? and session_id = ? and fence = ?",
                        row -> row.number("run_id"),
                        lease.run(),
                        lease.session(),
                        lease.fence())
                .isPresent();
    }

    @Override
    public Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        Set<LeaseKey> found = new HashSet<>();
        for (LeaseKey lease : leases) {
            boolean released = sql
                    .query(
                            "select attempts from brume_run where id = ?",
                            row -> Json.attempts(row.optionalText(1)),
                            lease.run())
                    .stream()
                    .flatMap(List::stream)
                    .anyMatch(attempt -> attempt.fence() == lease.fence());
            if (ended(lease) || released) {
                found.add(lease);
            }
        }
        return found;
    }

    @Override
    public OrderSteps orders() {
        return new JdbcOrders(sql, dialect, this::now, this::addLines);
    }

    // Settling.

    /** Nothing to say where the server has no such choice for a single transaction. */
    @Override
    public void mayBeForgotten() {
        // MariaDB and H2 have it for the whole server only, and there it is not this engine's to choose.
    }

    @Override
    public List<Settle> takeUnsettled(Collection<Long> runs, int limit) {
        List<Long> ids = runs.isEmpty()
                ? sql.query("select run_id from brume_settle order by run_id limit ?", row -> row.number(1), limit)
                : runs.stream().sorted().toList();
        List<Settle> taken = sql.in(
                "select run_id, job_id, version, outcome, ended_at, gates, held from brume_settle where run_id in ",
                ids,
                " for update skip locked",
                JdbcTransaction::settle);
        sql.batch(
                "delete from brume_settle where run_id = ?",
                taken,
                (parameters, settle) -> parameters.add(settle.run()));
        return taken;
    }

    static Settle settle(Row row) throws SQLException {
        return new Settle(
                row.number("run_id"),
                row.number("job_id"),
                row.integer("version"),
                Outcome.valueOf(row.text("outcome")),
                row.instant("ended_at"),
                row.integer("held") != 0,
                GateKey.split(row.optionalText("gates")));
    }

    @Override
    public void letGo(Collection<Long> runs, Instant readyAt) {
        sql.batch(
                "update brume_run set state = 'PLANNED', ready_at = ? where id = ? and state = 'HELD'",
                runs,
                (parameters, run) -> parameters.all(readyAt, run));
    }

    // Sessions.

    @Override
    public Optional<Instant> holdSession(SessionLease lease) {
        return sessions.hold(lease);
    }

    @Override
    public List<SessionRow> holdOpenSessions() {
        return sessions.holdOpen();
    }

    @Override
    public Map<JobKey, List<JobKey>> followUps(Collection<JobKey> jobs) {
        return definitions.followUps(jobs);
    }

    @Override
    public String timeline() {
        return sessions.timeline();
    }

    @Override
    public String notedTimeline() {
        return sessions.notedTimeline();
    }

    @Override
    public void noteTimeline(String timeline) {
        sessions.noteTimeline(timeline);
    }

    @Override
    public long epoch() {
        return sessions.epoch();
    }

    @Override
    public long raiseEpoch(long known) {
        return sessions.raiseEpoch(known);
    }

    @Override
    public void addSession(SessionRow session) {
        sessions.add(session);
    }

    @Override
    public Optional<Renewal> renew(SessionLease known, Duration lease) {
        return sessions.renew(known, lease);
    }

    @Override
    public void describe(UUID session, Collection<String> handlers, Duration ahead) {
        sessions.describe(session, handlers, ahead);
    }

    @Override
    public Optional<SessionRow> lockSession(UUID session) {
        return sessions.lock(session);
    }

    @Override
    public List<SessionRow> lockSessionsOf(String instance) {
        return sessions.lockOpenOf(instance);
    }

    @Override
    public List<SessionRow> lapsedSessions() {
        return sessions.lapsed();
    }

    @Override
    public void markSession(UUID session, SessionRow.State state) {
        sessions.mark(session, state);
    }

    @Override
    public int forgetSessions(Instant endedBefore) {
        return sessions.forget(endedBefore);
    }

    @Override
    public List<RunRow> lockRunsOf(UUID session, int limit) {
        return sql.query(
                "select " + Rows.RUN
                        + " from brume_run where session_id = ? order by id limit ? for update skip locked",
                Rows::run,
                session,
                limit);
    }

    @Override
    public List<Long> waitingOnlyFor(UUID session) {
        return sql.query(
                "select id from brume_run where only_session = ? and session_id is null order by id",
                row -> row.number("id"),
                session);
    }

    @Override
    public Map<Long, Long> leasedTo(UUID session) {
        Map<Long, Long> leased = new HashMap<>();
        sql.query(
                "select id, fence from brume_run where session_id = ?",
                row -> leased.put(row.number(1), row.number(2)),
                session);
        return leased;
    }

    @Override
    public LeaseSteps leases() {
        return new JdbcLeases(sql, dialect);
    }

    @Override
    public SealSteps seals() {
        return new JdbcSeals(sql);
    }

    @Override
    public RetentionSteps retention() {
        return new JdbcRetention(sql, dialect, this::now);
    }

    // Sweeping.

    private static final String COUNTED = "select j.id from brume_job j"
            + " left join (select job_id, count(case when state <> 'HELD' then 1 end) as used,"
            + " count(case when state = 'HELD' then 1 end) as waiting from brume_run group by job_id) r on r.job_id = j.id"
            + " left join (select job_id, count(case when held = 0 then 1 end) as ended,"
            + " count(case when held <> 0 then 1 end) as gone from brume_settle group by job_id) s on s.job_id = j.id"
            + " where (j.used <> coalesce(r.used, 0) + coalesce(s.ended, 0) or j.waiting <> coalesce(r.waiting, 0) + coalesce(s.gone, 0))";

    @Override
    public List<Recount> recount(int limit) {
        List<Long> suspects = sql.query(COUNTED + " order by j.id limit ?", row -> row.number(1), limit);
        List<Recount> wrong = new ArrayList<>();
        // Counted again under the lock: the first look raced with whoever was changing them.
        for (JobRow job : lockJobsById(suspects).values()) {
            int ended = count("select count(*) from brume_settle where job_id = ? and held = 0", job.id());
            int used = ended + count("select count(*) from brume_run where job_id = ? and state <> 'HELD'", job.id());
            int gone = count("select count(*) from brume_settle where job_id = ? and held <> 0", job.id());
            int waiting = gone + count("select count(*) from brume_run where job_id = ? and state = 'HELD'", job.id());
            if (used != job.used() || waiting != job.waiting()) {
                wrong.add(new Recount(job, used, waiting));
            }
        }
        return wrong;
    }

    @Override
    public List<Long> jobsWithRoomAndWaiting(int limit) {
        return sql.query(
                "select id from brume_job where waiting > 0 and used < cap and paused = 0 order by id limit ?",
                row -> row.number("id"),
                limit);
    }

    private int count(String query, long job) {
        return sql.first(query, row -> row.integer(1), job).orElseThrow();
    }
}
