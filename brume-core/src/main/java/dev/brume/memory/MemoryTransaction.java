package dev.brume.memory;

import dev.brume.Attempt;
import dev.brume.CalendarKey;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.RunState;
import dev.brume.memory.Tables.StoredJob;
import dev.brume.port.CalendarRow;
import dev.brume.port.Change;
import dev.brume.port.ChangeView;
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
import dev.brume.port.StoreException;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** The steps on maps. Locks are not needed: transactions run one after the other. */
final class MemoryTransaction implements Transaction {
    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryTransaction(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    @Override
    public GateSteps gates() {
        return new MemoryGates(tables);
    }

    @Override
    public OneOffSteps oneOffs() {
        return new MemoryOneOffs(tables);
    }

    @Override
    public OptionalLong revision(String source) {
        return tables.revisions.containsKey(source)
                ? OptionalLong.of(tables.revisions.get(source))
                : OptionalLong.empty();
    }

    @Override
    public void revision(String source, long number, String who) {
        tables.put(tables.revisions, source, number);
    }

    @Override
    public Instant now() {
        return clock.get();
    }

    // Definitions.

    @Override
    public void lockDefinitions() {
        // Held already.
    }

    @Override
    public Map<JobKey, JobRow> findJobs(Collection<JobKey> keys) {
        Map<JobKey, JobRow> found = new HashMap<>();
        keys.forEach(key -> tables.jobs.live(key).ifPresent(job -> found.put(key, job.row())));
        return found;
    }

    @Override
    public Map<JobKey, JobRow> lockJobs(Collection<JobKey> keys) {
        return findJobs(keys);
    }

    @Override
    public List<Long> addJobs(List<NewJob> jobs) {
        List<Long> ids = new ArrayList<>();
        for (NewJob added : jobs) {
            Job job = added.job();
            if (!findJobs(List.of(job.key())).isEmpty()) {
                throw duplicate("job " + job.key());
            }
            long id = tables.next("job");
            JobRow row = new JobRow(
                    id,
                    job.key(),
                    1,
                    added.source(),
                    added.at(),
                    added.nextAt(),
                    0,
                    job.ifBusy().places(),
                    0,
                    added.afterEnd(),
                    /* dropped= */ false,
                    /* paused= */ false);
            tables.put(tables.jobs, id, new StoredJob(row, /* live= */ true, added.at(), Optional.empty()));
            tables.put(tables.versions, row.versionKey(), job);
            tables.put(tables.versionsFrom, row.versionKey(), added.at());
            ids.add(id);
        }
        return ids;
    }

    @Override
    public void redefine(List<Redefinition> changes) {
        for (Redefinition change : changes) {
            StoredJob before = Tables.row(tables.jobs, change.id());
            JobRow row = before.row().redefined(change);
            tables.put(tables.jobs, row.id(), new StoredJob(row, true, change.at(), before.lastEnd()));
            tables.put(tables.versions, row.versionKey(), change.job());
            tables.put(tables.versionsFrom, row.versionKey(), change.at());
        }
    }

    @Override
    public void drop(long job) {
        StoredJob before = Tables.row(tables.jobs, job);
        JobRow row = before.row().owingNothing();
        tables.put(tables.jobs, job, new StoredJob(row, /* live= */ false, before.definedAt(), before.lastEnd()));
    }

    @Override
    public void addChanges(List<Change> changes) {
        changes.forEach(change -> {
            long id = tables.next("change");
            tables.put(tables.changes, id, new ChangeView(id, now(), change));
        });
    }

    @Override
    public Map<VersionKey, Job> definitions(Collection<VersionKey> keys) {
        Map<VersionKey, Job> found = new HashMap<>();
        keys.forEach(key -> found.put(key, tables.versions.get(key)));
        return found;
    }

    // Calendars and zone rules.

    @Override
    public Map<CalendarKey, CalendarRow> calendars(Collection<CalendarKey> keys) {
        Map<CalendarKey, CalendarRow> found = new HashMap<>();
        keys.stream()
                .map(tables.calendars::get)
                .filter(Objects::nonNull)
                .forEach(stored -> found.put(stored.row().key(), stored.row()));
        return found;
    }

    @Override
    public void addCalendars(List<CalendarRow> versions) {
        versions.forEach(row -> tables.put(tables.calendars, row.key(), new Tables.StoredCalendar(row, now())));
    }

    /** Versions of definitions hold the calendars themselves here, so those are compared. */
    @Override
    public List<JobRow> lockJobsUsing(CalendarKey calendar, int otherThan, int limit) {
        DayCalendar newest = Tables.row(tables.calendars, calendar).row().days();
        return tables.jobs.values().stream()
                .filter(StoredJob::live)
                .map(StoredJob::row)
                .filter(row -> row.key().namespace().equals(calendar.namespace()))
                .filter(row -> tables.definition(row).calendars().stream()
                        .anyMatch(used -> used.name().equals(calendar.name()) && !used.equals(newest)))
                .limit(limit)
                .toList();
    }

    @Override
    public List<JobRow> lockJobsAfter(long id, int limit) {
        return tables.jobs.values().stream()
                .filter(StoredJob::live)
                .map(StoredJob::row)
                .filter(row -> row.id() > id)
                .limit(limit)
                .toList();
    }

    @Override
    public String tzdata() {
        return tables.notes.getOrDefault("tzdata", "");
    }

    @Override
    public void tzdata(String version) {
        tables.put(tables.notes, "tzdata", version);
    }

    // Planning.

    @Override
    public List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, int limit) {
        Instant now = trusted.filter(limited -> limited.isBefore(now())).orElseGet(this::now);
        return tables.jobs
                .dueBetween(hint.orElse(Instant.MIN), now)
                .map(StoredJob::row)
                .limit(limit)
                .toList();
    }

    /** Nobody holds anything while another looks. */
    @Override
    public List<JobKey> lockedDueJobs(Instant dueBefore, int limit) {
        return List.of();
    }

    @Override
    public Map<Long, JobRow> lockJobsById(Collection<Long> ids) {
        Map<Long, JobRow> found = new LinkedHashMap<>();
        ids.stream()
                .sorted()
                .forEach(id -> found.put(id, Tables.row(tables.jobs, id).row()));
        return found;
    }

    @Override
    public void advance(List<JobAdvance> changes) {
        for (JobAdvance change : changes) {
            StoredJob before = Tables.row(tables.jobs, change.id());
            JobRow row = before.row().advanced(change);
            Optional<JobAdvance.LastEnd> last = change.lastEnd().isPresent() ? change.lastEnd() : before.lastEnd();
            tables.put(tables.jobs, row.id(), new StoredJob(row, before.live(), before.definedAt(), last));
        }
    }

    @Override
    public Optional<Instant> holdSession(SessionLease lease) {
        SessionRow row = tables.sessions.get(lease.session());
        boolean held = row != null
                && row.state() == SessionRow.State.OPEN
                && row.leaseUntil().isAfter(now())
                && !row.renewedAt().isBefore(lease.renewedAt())
                && tables.epoch() == lease.epoch()
                && timeline().equals(lease.timeline());
        return held ? Optional.of(now()) : Optional.empty();
    }

    @Override
    public List<SessionRow> holdOpenSessions() {
        Instant now = now();
        return tables.sessions.values().stream()
                .filter(row ->
                        row.state() == SessionRow.State.OPEN && row.leaseUntil().isAfter(now))
                .toList();
    }

    @Override
    public Map<JobKey, List<JobKey>> followUps(Collection<JobKey> jobs) {
        Map<JobKey, List<JobKey>> edges = new HashMap<>();
        findJobs(jobs).forEach((key, row) -> {
            List<JobKey> targets = tables.definition(row).followUps().stream()
                    .map(FollowUp::job)
                    .toList();
            if (!targets.isEmpty()) {
                edges.put(key, targets);
            }
        });
        return edges;
    }

    @Override
    public Numbers take(int count) {
        List<Long> ids = new ArrayList<>();
        List<Long> fences = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            ids.add(tables.next("run"));
            fences.add(tables.next("fence"));
        }
        return new Numbers(ids, fences);
    }

    @Override
    public void addRuns(List<RunRow> runs) {
        for (RunRow run : runs) {
            owe(run.owed(), run.id());
            tables.put(tables.runs, run.id(), run);
        }
    }

    private static StoreException duplicate(String what) {
        return new StoreException(StoreException.Trouble.CONFLICT, "memory: " + what + " is there already", null);
    }

    /** What unique indexes do elsewhere. */
    private void owe(RunRow.Owed owed, long run) {
        Tables.Debt debt = new Tables.Debt(owed.job(), owed.planned(), owed.slot());
        Long before = tables.debts.get(debt);
        if (before != null && before != run) {
            throw duplicate("run of job " + owed.job() + " at " + owed.planned());
        }
        tables.put(tables.debts, debt, run);
    }

    @Override
    public void addLines(List<LedgerLine> lines) {
        lines.forEach(line -> {
            owe(line.owed(), line.run());
            tables.record(line);
        });
    }

    @Override
    public void addSpans(List<Span> spans) {
        spans.forEach(tables::record);
    }

    // Running.

    @Override
    public List<RunRow> claim(Claim claim) {
        Instant now = now();
        Stream<RunRow> waiting =
                claim.oldestFirst() ? tables.runs.oldestFirst(claim.lane()) : tables.runs.byPriority(claim.lane());
        List<RunRow> ready = waiting.filter(run -> !run.readyAt().isAfter(now))
                .filter(run -> !MemoryOrders.isTooLate(run, now))
                .filter(run -> claim.ability().meets(run.needs()))
                .limit(claim.limit())
                .toList();
        List<RunRow> leased = new ArrayList<>();
        for (RunRow run : ready) {
            long fence = Fence.of(claim.epoch(), tables.next("fence"));
            RunRow taken = run.moved(
                    RunState.RUNNING,
                    run.readyAt(),
                    Optional.of(new RunRow.Lease(claim.session(), fence, now)),
                    run.attempts(),
                    run.attempt() + 1);
            tables.put(tables.runs, run.id(), taken);
            leased.add(taken);
        }
        return leased;
    }

    private Optional<RunRow> leased(LeaseKey lease) {
        return Optional.ofNullable(tables.runs.get(lease.run()))
                .filter(run -> run.lease().isPresent() && run.leaseKey().equals(lease));
    }

    @Override
    public Set<LeaseKey> end(List<RunEnd> ends) {
        Set<LeaseKey> accepted = new HashSet<>();
        for (RunEnd end : ends) {
            Optional<RunRow> held = leased(end.lease());
            if (held.isPresent()) {
                end(held.get(), end);
                accepted.add(end.lease());
            }
        }
        return accepted;
    }

    private void end(RunRow run, RunEnd end) {
        List<Attempt> attempts = new ArrayList<>(run.attempts());
        attempts.add(end.last());
        tables.remove(tables.runs, run.id());
        tables.remove(tables.progress, run.id());
        addLines(List.of(new LedgerLine(
                run.id(),
                run.owed(),
                run.version(),
                run.lane(),
                run.readyAt(),
                end.outcome(),
                end.reason(),
                List.copyOf(attempts),
                run.payloadOnRecord(),
                end.result())));
        tables.put(
                tables.settles,
                run.id(),
                new Settle(
                        run.id(),
                        run.owed().job(),
                        run.version(),
                        end.outcome(),
                        end.last().endedAt().orElseThrow(),
                        /* held= */ false,
                        run.gates()));
        addOutput(run.id(), end.last(), end.output());
    }

    private void addOutput(long run, Attempt attempt, Optional<Output> output) {
        output.ifPresent(printed -> tables.put(tables.outputs, new Tables.OutputKey(run, attempt.number()), printed));
    }

    @Override
    public Set<LeaseKey> release(List<RunRelease> releases) {
        Set<LeaseKey> accepted = new HashSet<>();
        for (RunRelease release : releases) {
            Optional<RunRow> held = leased(release.lease());
            if (held.isPresent()) {
                RunRow run = held.get();
                tables.remove(tables.progress, run.id());
                tables.put(
                        tables.runs,
                        run.id(),
                        run.moved(
                                release.state(),
                                release.readyAt(),
                                Optional.empty(),
                                release.attempts(),
                                run.attempt()));
                if (!release.attempts().isEmpty()) {
                    addOutput(
                            run.id(), release.attempts().get(release.attempts().size() - 1), release.output());
                }
                accepted.add(release.lease());
            }
        }
        return accepted;
    }

    @Override
    public boolean holdLease(LeaseKey lease) {
        return leased(lease).isPresent();
    }

    @Override
    public void progress(List<ProgressNote> notes) {
        notes.stream()
                .filter(note -> leased(note.lease()).isPresent())
                .forEach(note -> tables.put(tables.progress, note.lease().run(), note.progress()));
    }

    @Override
    public boolean ended(LeaseKey lease) {
        return Optional.ofNullable(tables.ledger.get(lease.run())).map(LedgerLine::attempts).stream()
                .flatMap(List::stream)
                .reduce((a, b) -> b)
                .filter(last -> last.fence() == lease.fence() && last.session().equals(lease.session()))
                .isPresent();
    }

    @Override
    public Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        Set<LeaseKey> found = new HashSet<>();
        for (LeaseKey lease : leases) {
            List<Attempt> attempts = new ArrayList<>();
            Optional.ofNullable(tables.ledger.get(lease.run())).ifPresent(line -> attempts.addAll(line.attempts()));
            Optional.ofNullable(tables.runs.get(lease.run())).ifPresent(run -> attempts.addAll(run.attempts()));
            boolean known = attempts.stream()
                    .anyMatch(attempt -> attempt.fence() == lease.fence()
                            && attempt.session().equals(lease.session()));
            if (known) {
                found.add(lease);
            }
        }
        return found;
    }

    @Override
    public OrderSteps orders() {
        return new MemoryOrders(tables, this::now, this::addLines);
    }

    // Settling.

    @Override
    public void mayBeForgotten() {
        // Memory has no disk to wait for.
    }

    @Override
    public List<Settle> takeUnsettled(Collection<Long> runs, int limit) {
        List<Settle> taken = tables.settles.values().stream()
                .filter(settle -> runs.isEmpty() || runs.contains(settle.run()))
                .limit(limit)
                .toList();
        taken.forEach(settle -> tables.remove(tables.settles, settle.run()));
        return taken;
    }

    @Override
    public void letGo(Collection<Long> runs, Instant readyAt) {
        for (long id : runs) {
            RunRow run = Tables.row(tables.runs, id);
            if (run.state() == RunState.HELD) {
                tables.put(
                        tables.runs,
                        id,
                        run.moved(RunState.PLANNED, readyAt, Optional.empty(), run.attempts(), run.attempt()));
            }
        }
    }

    // Sessions.

    @Override
    public long epoch() {
        return tables.epoch();
    }

    @Override
    public long raiseEpoch(long known) {
        while (tables.epoch() <= known) {
            tables.next("epoch");
        }
        return tables.epoch();
    }

    @Override
    public void addSession(SessionRow session) {
        tables.put(tables.sessions, session.id(), session);
    }

    @Override
    public Optional<Renewal> renew(SessionLease known, Duration lease) {
        UUID session = known.session();
        SessionRow row = tables.sessions.get(session);
        Instant now = now();
        if (row == null
                || row.state() == SessionRow.State.ENDED
                || row.lapsedAt(now)
                || tables.epoch() != known.epoch()
                || !timeline().equals(known.timeline())) {
            return Optional.empty();
        }
        tables.put(
                tables.sessions,
                session,
                with(row, row.state(), now, now.plus(lease), row.endedAt(), row.handlers(), row.ahead()));
        return Optional.of(new Renewal(now, row.state()));
    }

    @Override
    public String timeline() {
        return tables.timeline();
    }

    @Override
    public String notedTimeline() {
        return tables.notes.getOrDefault("timeline", "");
    }

    @Override
    public void noteTimeline(String timeline) {
        tables.put(tables.notes, "timeline", timeline);
    }

    @Override
    public List<SessionRow> lockSessionsOf(String instance) {
        return tables.sessions.values().stream()
                .filter(row -> row.instance().equals(instance))
                .filter(row -> row.state() == SessionRow.State.OPEN)
                .toList();
    }

    @Override
    public void describe(UUID session, Collection<String> handlers, Duration ahead) {
        SessionRow row = tables.sessions.get(session);
        if (row != null) {
            Optional<List<String>> names = Optional.of(List.copyOf(handlers));
            tables.put(
                    tables.sessions,
                    session,
                    with(row, row.state(), row.renewedAt(), row.leaseUntil(), row.endedAt(), names, ahead));
        }
    }

    private static SessionRow with(
            SessionRow row,
            SessionRow.State state,
            Instant renewedAt,
            Instant leaseUntil,
            Optional<Instant> endedAt,
            Optional<List<String>> handlers,
            Duration ahead) {
        return new SessionRow(
                row.id(),
                row.instance(),
                row.host(),
                row.pid(),
                row.lanes(),
                row.labels(),
                row.software(),
                row.tzdata(),
                row.epoch(),
                state,
                row.openedAt(),
                renewedAt,
                leaseUntil,
                endedAt,
                handlers,
                ahead);
    }

    @Override
    public Optional<SessionRow> lockSession(UUID session) {
        return Optional.ofNullable(tables.sessions.get(session));
    }

    @Override
    public List<SessionRow> lapsedSessions() {
        Instant now = now();
        return tables.sessions.values().stream()
                .filter(row -> row.lapsedAt(now) || row.isFromTheFuture(now))
                .toList();
    }

    @Override
    public void markSession(UUID session, SessionRow.State state) {
        SessionRow row = Tables.row(tables.sessions, session);
        boolean over = state == SessionRow.State.LAPSED || state == SessionRow.State.ENDED;
        Optional<Instant> endedAt = over ? row.endedAt().or(() -> Optional.of(now())) : Optional.empty();
        tables.put(
                tables.sessions,
                session,
                with(row, state, row.renewedAt(), row.leaseUntil(), endedAt, row.handlers(), row.ahead()));
    }

    private static Predicate<RunRow> isLeasedTo(UUID session) {
        return run ->
                run.lease().filter(lease -> lease.session().equals(session)).isPresent();
    }

    @Override
    public List<RunRow> lockRunsOf(UUID session, int limit) {
        return tables.runs.values().stream()
                .filter(isLeasedTo(session))
                .limit(limit)
                .toList();
    }

    @Override
    public List<Long> waitingOnlyFor(UUID session) {
        return tables.runs.values().stream()
                .filter(run -> run.lease().isEmpty())
                .filter(run -> run.needs().session().filter(session::equals).isPresent())
                .map(RunRow::id)
                .toList();
    }

    @Override
    public Map<Long, Long> leasedTo(UUID session) {
        Map<Long, Long> leased = new HashMap<>();
        lockRunsOf(session, Integer.MAX_VALUE)
                .forEach(run -> leased.put(run.id(), run.lease().orElseThrow().fence()));
        return leased;
    }

    @Override
    public LeaseSteps leases() {
        return new MemoryLeases(tables);
    }

    // Sweeping.

    @Override
    public SealSteps seals() {
        return new MemorySeals(tables, line -> MemoryHistory.withoutOutput(tables, line));
    }

    @Override
    public RetentionSteps retention() {
        return new MemoryRetention(tables, clock);
    }

    @Override
    public List<Recount> recount(int limit) {
        Map<Long, Integer> used = new HashMap<>();
        Map<Long, Integer> waiting = new HashMap<>();
        tables.settles
                .values()
                .forEach(settle -> (settle.held() ? waiting : used).merge(settle.job(), 1, Integer::sum));
        tables.runs
                .values()
                .forEach(run -> (run.state() == RunState.HELD ? waiting : used)
                        .merge(run.owed().job(), 1, Integer::sum));
        return tables.jobs.values().stream()
                .map(StoredJob::row)
                .map(row -> new Recount(row, used.getOrDefault(row.id(), 0), waiting.getOrDefault(row.id(), 0)))
                .filter(count -> count.used() != count.row().used()
                        || count.waiting() != count.row().waiting())
                .limit(limit)
                .toList();
    }

    @Override
    public List<Long> jobsWithRoomAndWaiting(int limit) {
        return tables.jobs.values().stream()
                .map(StoredJob::row)
                .filter(row -> row.waiting() > 0 && !row.paused() && row.used() < row.cap())
                .map(JobRow::id)
                .limit(limit)
                .toList();
    }

    @Override
    public int forgetSessions(Instant endedBefore) {
        List<UUID> old = tables.sessions.values().stream()
                .filter(row -> row.state() == SessionRow.State.ENDED)
                .filter(row ->
                        row.endedAt().filter(at -> at.isBefore(endedBefore)).isPresent())
                .map(SessionRow::id)
                .toList();
        old.forEach(id -> tables.remove(tables.sessions, id));
        return old.size();
    }
}
