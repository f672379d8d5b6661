package dev.brume.jdbc;

import static dev.brume.jdbc.Statements.places;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.AfterEnd;
import dev.brume.history.CalendarRow;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.history.VersionKey;
import dev.brume.internal.document.JobDocument;
import dev.brume.spi.AccessSteps;
import dev.brume.spi.Awaited;
import dev.brume.spi.Claim;
import dev.brume.spi.Ended;
import dev.brume.spi.FeedNotes;
import dev.brume.spi.FeedSteps;
import dev.brume.spi.GateSteps;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.NamedLeaseSteps;
import dev.brume.spi.NewJob;
import dev.brume.spi.Notable;
import dev.brume.spi.Notables;
import dev.brume.spi.NoticeSteps;
import dev.brume.spi.Numbers;
import dev.brume.spi.OneOffSteps;
import dev.brume.spi.OrderSteps;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.Redefinition;
import dev.brume.spi.RequestSteps;
import dev.brume.spi.RetentionSteps;
import dev.brume.spi.RollUpSteps;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.SealSteps;
import dev.brume.spi.SessionSteps;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
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
 * and leased_at; WAITING has no place of its job. A lease is checked by (session_id, fence) in the same
 * statement that changes the row.
 */
class JdbcTransaction implements Transaction {
    /** Passes over jobs whose definitions are for newer instances. */
    static final String READABLE = " and format <= " + JobDocument.FORMAT;

    protected final Statements sql;
    protected final RunRows runs;
    private final Dialect dialect;
    private final Supplier<Optional<Instant>> virtualNow;
    private final DefinitionRows definitions;
    private final ClaimRows claims;
    private final EndRows ends;
    private final SettleRows settles;
    private final JobPlaces places;
    private final NumberSource numbers;
    private final Feeding feeding;
    private final Noting noting;
    private final FeedNotes notes = new FeedNotes();
    private final Notables notables = new Notables();

    /**
     * Begins the steps of a transaction.
     *
     * @param versions makes jobs of stored versions
     * @param numbers where fresh ones come from
     * @param feeding what the store knows of who follows the feed
     * @param noting what it knows of what is to be told
     * @param virtualNow what time it is, if that is not the database's to say
     */
    JdbcTransaction(
            Statements sql,
            Dialect dialect,
            VersionReader versions,
            NumberSource numbers,
            Feeding feeding,
            Noting noting,
            Supplier<Optional<Instant>> virtualNow) {
        this.sql = sql;
        this.dialect = dialect;
        this.virtualNow = virtualNow;
        this.definitions = new DefinitionRows(sql, dialect, versions, this::now);
        this.numbers = numbers;
        this.feeding = feeding;
        this.noting = noting;
        this.claims = new ClaimRows(sql, dialect, numbers, this::now);
        this.runs = new RunRows(sql, dialect, this::now);
        this.ends = new EndRows(sql, runs);
        this.settles = new SettleRows(sql, dialect);
        this.places = new JobPlaces(sql, dialect);
    }

    @Override
    public GateSteps gates() {
        return new JdbcGates(sql, dialect, this::now);
    }

    @Override
    public OneOffSteps oneOffs() {
        return new JdbcOneOffs(sql, dialect);
    }

    @Override
    public Instant now() {
        return virtualNow.get().orElseGet(() -> JdbcStore.clock(sql, dialect));
    }

    // Definitions.

    @Override
    public void lockDefinitions() {
        sql.query("select id from brume_cluster where id = 1 for update", row -> row.integer(1));
    }

    @Override
    public Map<JobName, JobRow> findJobs(Collection<JobName> keys) {
        return jobs(keys, "");
    }

    @Override
    public Map<JobName, JobRow> lockJobs(Collection<JobName> keys) {
        return jobs(keys, " order by id for update");
    }

    private Map<JobName, JobRow> jobs(Collection<JobName> keys, String lock) {
        Map<JobName, JobRow> found = new HashMap<>();
        List<String> live = keys.stream().map(Rows::liveKey).toList();
        counted(sql.in("select " + Rows.JOB + " from brume_job where live_key in ", live, lock, Rows::job))
                .forEach(row -> found.put(row.name(), row));
        return found;
    }

    /** Counts the places of jobs whose rows were read, or locked, just before. */
    protected final List<JobRow> counted(List<JobRow> rows) {
        return places.count(rows);
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
    public List<JobName> followedBy(JobName target) {
        return definitions.followedBy(target);
    }

    @Override
    public void rename(long job, JobName from, JobName to) {
        definitions.rename(job, from, to);
    }

    @Override
    public Map<JobName, JobRow> formerly(Collection<JobName> names) {
        return definitions.formerly(names);
    }

    @Override
    public void drop(long job) {
        definitions.drop(job);
    }

    @Override
    public void addChanges(List<Change> changes) {
        definitions.addChanges(changes);
        notes.changed(changes);
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
    public int accept(String source) {
        return definitions.accept(source);
    }

    @Override
    public Map<Long, Instant> builds(Collection<Long> jobs) {
        return definitions.builds(jobs);
    }

    @Override
    public void build(Collection<Long> jobs, Optional<Instant> built) {
        definitions.build(jobs, built);
    }

    @Override
    public void revision(String source, long number, String who) {
        definitions.revision(source, number, who);
    }

    // Calendars and zone rules.

    @Override
    public Map<CalendarName, CalendarRow> calendars(Collection<CalendarName> keys) {
        return CalendarRows.newest(sql, keys);
    }

    @Override
    public void addCalendars(List<CalendarRow> added) {
        CalendarRows.add(sql, added, now());
    }

    @Override
    public List<JobRow> lockJobsUsing(CalendarName calendar, int otherThan, int limit) {
        List<Long> ids = sql.query("""
                select u.job_id
                from brume_calendar_use u
                join brume_job j on j.id = u.job_id
                where u.namespace = ?
                and u.name = ?
                and u.number <> ?
                and j.live_key is not null
                order by u.job_id
                limit ?""", row -> row.number(1), calendar.namespace(), calendar.name(), otherThan, limit);
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
    public List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, Share share, int limit) {
        Instant clock = now();
        return lockDue(hint, trusted.filter(limited -> limited.isBefore(clock)).orElse(clock), share, limit);
    }

    @Override
    public List<JobRow> lockJobsDueAt(Instant due, Share share, int limit) {
        return lockDue(Optional.of(due), due, share, limit);
    }

    private List<JobRow> lockDue(Optional<Instant> hint, Instant now, Share share, int limit) {
        List<Object> values = new ArrayList<>(List.of(now));
        hint.ifPresent(values::add);
        String own = ShareCondition.of(share, values);
        values.add(limit);
        List<Long> due = sql.query(
                "select id from brume_job where next_at <= ?" + READABLE + (hint.isPresent() ? " and next_at >= ?" : "")
                        + own + " order by next_at limit ?",
                row -> row.number(1),
                values.toArray());
        return counted(sql.chunked(due, chunk -> {
            List<Object> keys = new ArrayList<>(chunk);
            keys.add(now);
            return sql.query(
                    "select " + Rows.JOB + " from brume_job where id in " + places(chunk.size())
                            + " and next_at <= ? for update skip locked",
                    Rows::job,
                    keys.toArray());
        }));
    }

    @Override
    public List<JobName> lockedDueJobs(Instant dueBefore, int limit) {
        String due = "select id, namespace, name from brume_job where next_at <= ? order by next_at limit ?";
        Map<Long, JobName> names = new LinkedHashMap<>();
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
        counted(sql.in(
                        "select " + Rows.JOB + " from brume_job where id in ",
                        new TreeSet<>(ids),
                        " order by id for update",
                        Rows::job))
                .forEach(row -> found.put(row.id(), row));
        return found;
    }

    @Override
    public void advance(List<JobAdvance> changes) {
        sql.batch(
                "update brume_job set cursor_at = ?, next_at = " + dialect.dueAt()
                        + ", newest_run = ?, ended_run = ?, crowded = ? where id = ?",
                changes,
                (parameters, change) -> parameters.all(
                        change.cursor(),
                        change.nextAt(),
                        change.nextAt(),
                        change.runs().newest(),
                        change.runs().ended(),
                        change.runs().crowded() ? 1 : 0,
                        change.id()));
        advanceAfterEnds(changes);
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
        return numbers.take(count);
    }

    @Override
    public final void addRuns(List<RunRow> added) {
        insert(added);
        runs.await(added.stream()
                .filter(run -> run.state() == RunState.WAITING)
                .map(RunRow::id)
                .toList());
        notes.planned(added);
    }

    /** Adds live runs. */
    protected void insert(List<RunRow> added) {
        runs.add(added);
    }

    @Override
    public void addLines(List<LedgerLine> lines) {
        runs.addLines(lines);
        notes.recorded(lines);
        notables.recorded(lines);
    }

    @Override
    public void addSpans(List<Span> spans) {
        runs.addSpans(spans);
        notes.passedOver(spans);
        notables.passedOver(spans);
    }

    // Running.

    @Override
    public final List<RunRow> claim(Claim claim) {
        List<RunRow> leased = lease(claim);
        notes.started(leased);
        return leased;
    }

    /** Leases waiting runs. */
    protected List<RunRow> lease(Claim claim) {
        return claims.claim(claim);
    }

    @Override
    public final Ended end(List<RunEnd> all) {
        Ended ended = moveToLedger(all);
        notes.ended(all, ended.accepted());
        notables.ended(all, ended.accepted());
        return ended;
    }

    /** Ends leased runs. */
    protected Ended moveToLedger(List<RunEnd> all) {
        return ends.end(all);
    }

    @Override
    public Set<LeaseKey> release(List<RunRelease> releases) {
        Set<LeaseKey> accepted = ends.release(releases);
        notes.released(releases, accepted);
        notables.released(releases, accepted);
        return accepted;
    }

    @Override
    public boolean holdLease(LeaseKey lease) {
        return ends.holdLease(lease);
    }

    @Override
    public void printed(List<PrintedNote> all) {
        ends.printed(all);
    }

    @Override
    public void progress(List<ProgressNote> all) {
        notes.progress(ends.progress(all));
    }

    @Override
    public boolean ended(LeaseKey lease) {
        return ends.ended(lease);
    }

    @Override
    public Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        return ends.recorded(leases);
    }

    @Override
    public OrderSteps orders() {
        return new JdbcOrders(sql, dialect, this::now, this::addLines);
    }

    @Override
    public RequestSteps requests() {
        return new JdbcRequests(sql, dialect, this::now);
    }

    // Settling.

    /** Nothing to say where the server has no such choice for a single transaction. */
    @Override
    public void mayBeForgotten() {
        // MariaDB and H2 have it for the whole server only, and there it is not this engine's to choose.
    }

    @Override
    public List<Long> unsettled(int limit) {
        return sql.query(
                "select distinct run_id from brume_settle order by run_id limit ?", row -> row.number(1), limit);
    }

    @Override
    public List<Settle> takeUnsettled(Collection<Long> ended) {
        return settles.take(ended);
    }

    @Override
    public Awaited await(Collection<Long> jobs) {
        return settles.await(jobs);
    }

    @Override
    public void lookAgain(Map<Long, Long> jobs) {
        settles.lookAgain(jobs);
    }

    @Override
    public void letGo(Collection<Long> waiting, Instant readyAt) {
        sql.batch(
                "update brume_run set state = 'PLANNED', ready_at = ? where id = ? and state = 'WAITING'",
                waiting,
                (parameters, run) -> parameters.all(readyAt, run));
        sql.batch(
                "update brume_wait set until_at = ? where run_id = ? and until_at is null",
                waiting,
                (parameters, run) -> parameters.all(readyAt, run));
        notes.letGo(waiting);
    }

    // Sessions.

    @Override
    public SessionSteps sessions() {
        return new JdbcSessions(
                sql, dialect, numbers, this::now, clock -> virtualNow.get().orElse(clock));
    }

    @Override
    public Map<JobName, List<JobName>> followUps(Collection<JobName> jobs) {
        return definitions.followUps(jobs);
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
    public NamedLeaseSteps leases() {
        return new JdbcNamedLeases(sql, dialect);
    }

    @Override
    public SealSteps seals() {
        return new JdbcSeals(sql);
    }

    @Override
    public RollUpSteps rollUp() {
        return new JdbcRollUp(sql, dialect);
    }

    @Override
    public RetentionSteps retention() {
        return new JdbcRetention(sql, dialect, this::now);
    }

    @Override
    public AccessSteps access() {
        return new JdbcAccess(sql, dialect);
    }

    @Override
    public FeedSteps feed() {
        return feedOf();
    }

    private JdbcFeed feedOf() {
        return new JdbcFeed(sql, this::now, feeding);
    }

    @Override
    public NoticeSteps notices() {
        return noticesOf();
    }

    private JdbcNotices noticesOf() {
        return new JdbcNotices(sql, dialect, this::now, noting);
    }

    /** Feeds what was changed, if somebody listens, and notes what may have to be told; the last step before the commit. */
    void finish() {
        if (!notables.isEmpty()) {
            Set<Notable.Kind> wanted = noting.wanted(() -> noticesOf().read().wants());
            List<Notable> all = wanted.isEmpty() ? List.of() : notables.of(wanted);
            if (!all.isEmpty()) {
                noticesOf().note(all);
            }
        }
        if (!notes.isEmpty() && feeding.isListened(() -> feedOf().isListened())) {
            feedOf().add(notes.all());
        }
    }

    // Sweeping.

    @Override
    public List<JobRow> crowdedUnawares(int limit) {
        return List.copyOf(lockJobsById(settles.crowdedUnawares(limit)).values());
    }

    @Override
    public List<Long> jobsWithRoomAndWaiting(int limit) {
        return settles.withRoomAndWaiting(limit);
    }
}
