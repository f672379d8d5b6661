package dev.brume.memory;

import dev.brume.CalendarName;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.StoreException;
import dev.brume.history.CalendarRow;
import dev.brume.history.Change;
import dev.brume.history.ChangeView;
import dev.brume.history.JobRow;
import dev.brume.history.LeaseKey;
import dev.brume.history.NewestRuns;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.history.VersionKey;
import dev.brume.memory.Tables.StoredJob;
import dev.brume.schedule.DayCalendar;
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
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The steps on maps. Locks are not needed: transactions run one after the other. */
final class MemoryTransaction implements Transaction {
    private final Tables tables;
    private final Supplier<Instant> clock;
    private final MemoryRuns runs;
    private final FeedNotes notes = new FeedNotes();
    private final Notables notables = new Notables();

    MemoryTransaction(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
        this.runs = new MemoryRuns(tables, clock);
    }

    @Override
    public GateSteps gates() {
        return new MemoryGates(tables, clock);
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
    public int accept(String source) {
        tables.remove(tables.revisions, source);
        int colon = source.indexOf(':');
        Optional<String> namespace = colon < 0 ? Optional.empty() : Optional.of(source.substring(0, colon));
        List<Long> jobs = tables.jobs.values().stream()
                .filter(Tables.StoredJob::live)
                .map(Tables.StoredJob::row)
                .filter(row -> row.source().equals(source.substring(colon + 1)))
                .filter(row ->
                        namespace.isEmpty() || namespace.get().equals(row.name().namespace()))
                .map(JobRow::id)
                .toList();
        build(jobs, Optional.empty());
        return jobs.size();
    }

    @Override
    public Map<Long, Instant> builds(Collection<Long> jobs) {
        Map<Long, Instant> found = new TreeMap<>(tables.builds);
        found.keySet().retainAll(Set.copyOf(jobs));
        return found;
    }

    @Override
    public void build(Collection<Long> jobs, Optional<Instant> built) {
        for (long job : jobs) {
            if (built.isPresent()) {
                tables.put(tables.builds, job, built.get());
            } else {
                tables.remove(tables.builds, job);
            }
        }
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
    public Map<JobName, JobRow> findJobs(Collection<JobName> keys) {
        Map<JobName, JobRow> found = new HashMap<>();
        keys.forEach(key -> tables.jobs.live(key).ifPresent(job -> found.put(key, tables.counted(job))));
        return found;
    }

    @Override
    public Map<JobName, JobRow> lockJobs(Collection<JobName> keys) {
        return findJobs(keys);
    }

    @Override
    public List<Long> addJobs(List<NewJob> jobs) {
        List<Long> ids = new ArrayList<>();
        for (NewJob added : jobs) {
            Job job = added.job();
            if (!findJobs(List.of(job.name())).isEmpty()) {
                throw duplicate("job " + job.name());
            }
            long id = tables.next("job");
            JobRow row = new JobRow(
                    id,
                    job.name(),
                    1,
                    added.source(),
                    added.at(),
                    added.nextAt(),
                    0,
                    job.ifBusy().places(),
                    0,
                    NewestRuns.NONE,
                    added.afterEnd(),
                    /* dropped= */ false,
                    PauseMark.NONE);
            tables.put(tables.jobs, id, new StoredJob(row, /* live= */ true, added.at()));
            tables.put(tables.versions, row.versionKey(), job);
            tables.put(tables.versionsFrom, row.versionKey(), added.at());
            tables.put(tables.versionSources, row.versionKey(), row.source());
            tables.put(tables.versionNumbers, tables.next("version"), row.versionKey());
            ids.add(id);
        }
        return ids;
    }

    @Override
    public void redefine(List<Redefinition> changes) {
        for (Redefinition change : changes) {
            StoredJob before = Tables.row(tables.jobs, change.id());
            JobRow row = change.applyTo(before.row());
            tables.put(tables.jobs, row.id(), new StoredJob(row, true, change.at()));
            tables.put(tables.versions, row.versionKey(), change.job());
            tables.put(tables.versionsFrom, row.versionKey(), change.at());
            tables.put(tables.versionSources, row.versionKey(), row.source());
            tables.put(tables.versionNumbers, tables.next("version"), row.versionKey());
        }
    }

    @Override
    public List<JobName> followedBy(JobName target) {
        return tables.jobs.values().stream()
                .filter(StoredJob::live)
                .map(StoredJob::row)
                .filter(row -> tables.definition(row).followUps().stream()
                        .anyMatch(followUp -> followUp.job().equals(target)))
                .map(JobRow::name)
                .toList();
    }

    @Override
    public void rename(long job, JobName from, JobName to) {
        StoredJob before = Tables.row(tables.jobs, job);
        tables.put(tables.jobs, job, new StoredJob(before.row().named(to), before.live(), before.definedAt()));
        tables.put(tables.formerNames, tables.next("former"), new Tables.FormerName(job, from));
        Pause.Scope scope = Pause.Scope.of(from);
        Map.copyOf(tables.pauses).forEach((id, pause) -> {
            if (pause.scope().equals(scope)) {
                tables.put(
                        tables.pauses,
                        id,
                        new Pause(
                                Pause.Scope.of(to),
                                pause.since(),
                                pause.until(),
                                pause.owed(),
                                pause.who(),
                                pause.because(),
                                pause.days()));
            }
        });
    }

    @Override
    public Map<JobName, JobRow> formerly(Collection<JobName> names) {
        Map<JobName, JobRow> found = new HashMap<>();
        tables.formerNames.values().stream()
                .filter(former -> names.contains(former.name())
                        && Tables.row(tables.jobs, former.job()).live())
                .forEach(former -> found.put(
                        former.name(), Tables.row(tables.jobs, former.job()).row()));
        return found;
    }

    @Override
    public void drop(long job) {
        StoredJob before = Tables.row(tables.jobs, job);
        JobRow row = before.row().owingNothing();
        tables.put(tables.jobs, job, new StoredJob(row, /* live= */ false, before.definedAt()));
        tables.put(tables.droppedAt, job, now());
    }

    @Override
    public void addChanges(List<Change> changes) {
        changes.forEach(change -> {
            long id = tables.next("change");
            tables.put(tables.changes, id, new ChangeView(id, now(), change));
        });
        notes.changed(changes);
    }

    @Override
    public Map<VersionKey, Job> definitions(Collection<VersionKey> keys) {
        Map<VersionKey, Job> found = new HashMap<>();
        keys.forEach(key -> found.put(key, tables.versions.get(key)));
        return found;
    }

    // Calendars and zone rules.

    @Override
    public Map<CalendarName, CalendarRow> calendars(Collection<CalendarName> keys) {
        Map<CalendarName, CalendarRow> found = new HashMap<>();
        keys.stream()
                .map(tables.calendars::get)
                .filter(Objects::nonNull)
                .forEach(stored -> found.put(stored.row().name(), stored.row()));
        return found;
    }

    @Override
    public void addCalendars(List<CalendarRow> versions) {
        versions.forEach(row -> tables.put(tables.calendars, row.name(), new Tables.StoredCalendar(row, now())));
    }

    /** Versions of definitions hold the calendars themselves here, so those are compared. */
    @Override
    public List<JobRow> lockJobsUsing(CalendarName calendar, int otherThan, int limit) {
        DayCalendar newest = Tables.row(tables.calendars, calendar).row().days();
        return tables.jobs.values().stream()
                .filter(StoredJob::live)
                .map(tables::counted)
                .filter(row -> tables.definition(row).calendars().stream()
                        .anyMatch(used -> CalendarName.in(row.name().namespace(), used.name())
                                        .equals(calendar)
                                && !used.equals(newest)))
                .limit(limit)
                .toList();
    }

    @Override
    public List<JobRow> lockJobsAfter(long id, int limit) {
        return tables.jobs.values().stream()
                .filter(StoredJob::live)
                .map(tables::counted)
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
    public List<JobRow> lockDueJobs(Optional<Instant> hint, Optional<Instant> trusted, Share share, int limit) {
        Instant now = trusted.filter(limited -> limited.isBefore(now())).orElseGet(this::now);
        return tables.jobs
                .dueBetween(hint.orElse(Instant.MIN), now)
                .filter(tables.isIn(share))
                .limit(limit)
                .map(tables::counted)
                .toList();
    }

    @Override
    public List<JobRow> lockJobsDueAt(Instant due, Share share, int limit) {
        return tables.jobs
                .dueBetween(due, due)
                .filter(tables.isIn(share))
                .limit(limit)
                .map(tables::counted)
                .toList();
    }

    /** Nobody holds anything while another looks. */
    @Override
    public List<JobName> lockedDueJobs(Instant dueBefore, int limit) {
        return List.of();
    }

    @Override
    public Map<Long, JobRow> lockJobsById(Collection<Long> ids) {
        Map<Long, JobRow> found = new LinkedHashMap<>();
        ids.stream().sorted().forEach(id -> found.put(id, tables.counted(Tables.row(tables.jobs, id))));
        return found;
    }

    @Override
    public void advance(List<JobAdvance> changes) {
        for (JobAdvance change : changes) {
            StoredJob before = Tables.row(tables.jobs, change.id());
            JobRow row = change.applyTo(before.row());
            tables.put(tables.jobs, row.id(), new StoredJob(row, before.live(), before.definedAt()));
        }
    }

    @Override
    public Map<JobName, List<JobName>> followUps(Collection<JobName> jobs) {
        Map<JobName, List<JobName>> edges = new HashMap<>();
        findJobs(jobs).forEach((key, row) -> {
            List<JobName> targets = tables.definition(row).followUps().stream()
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

    static StoreException duplicate(String what) {
        return new StoreException(StoreException.Trouble.CONFLICT, "memory: " + what + " is there already", null);
    }

    @Override
    public void addRuns(List<RunRow> added) {
        runs.add(added);
        notes.planned(added);
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
    public List<RunRow> claim(Claim claim) {
        List<RunRow> leased = runs.claim(claim);
        notes.started(leased);
        return leased;
    }

    @Override
    public Ended end(List<RunEnd> ends) {
        Ended ended = runs.end(ends);
        notes.ended(ends, ended.accepted());
        notables.ended(ends, ended.accepted());
        return ended;
    }

    @Override
    public Set<LeaseKey> release(List<RunRelease> releases) {
        Set<LeaseKey> accepted = runs.release(releases);
        notes.released(releases, accepted);
        notables.released(releases, accepted);
        return accepted;
    }

    @Override
    public boolean holdLease(LeaseKey lease) {
        return runs.holdLease(lease);
    }

    @Override
    public void printed(List<PrintedNote> all) {
        runs.printed(all);
    }

    @Override
    public void progress(List<ProgressNote> all) {
        notes.progress(runs.progress(all));
    }

    @Override
    public boolean ended(LeaseKey lease) {
        return runs.ended(lease);
    }

    @Override
    public Set<LeaseKey> recorded(Collection<LeaseKey> leases) {
        return runs.recorded(leases);
    }

    @Override
    public OrderSteps orders() {
        return new MemoryOrders(tables, this::now, this::addLines);
    }

    @Override
    public RequestSteps requests() {
        return new MemoryRequests(tables, this::now);
    }

    // Settling.

    @Override
    public void mayBeForgotten() {
        // Memory has no disk to wait for.
    }

    @Override
    public List<Long> unsettled(int limit) {
        return Stream.concat(tables.settles.keySet().stream(), tables.looks.keySet().stream())
                .distinct()
                .sorted()
                .limit(limit)
                .toList();
    }

    @Override
    public List<Settle> takeUnsettled(Collection<Long> runs) {
        List<Settle> taken = new ArrayList<>();
        taken.addAll(take(tables.settles, runs));
        taken.addAll(take(tables.looks, runs));
        return taken;
    }

    private List<Settle> take(Map<Long, Settle> from, Collection<Long> runs) {
        List<Settle> taken = runs.stream()
                .distinct()
                .sorted()
                .map(from::get)
                .filter(Objects::nonNull)
                .toList();
        taken.forEach(settle -> tables.remove(from, settle.run()));
        return taken;
    }

    /** Nobody holds a run while another looks, so none is busy. */
    @Override
    public Awaited await(Collection<Long> jobs) {
        Map<Long, Long> live = jobs.stream()
                .distinct()
                .flatMap(tables.runs::ofJob)
                .collect(Collectors.toMap(RunRow::id, run -> run.owed().job()));
        live.keySet().forEach(run -> tables.put(tables.awaited, run, true));
        return new Awaited(live, Set.of());
    }

    @Override
    public void lookAgain(Map<Long, Long> jobs) {
        jobs.forEach((run, job) -> tables.put(tables.looks, run, Settle.lookAgain(run, job)));
    }

    @Override
    public void letGo(Collection<Long> runs, Instant readyAt) {
        for (long id : runs) {
            RunRow run = Tables.row(tables.runs, id);
            if (run.state() == RunState.WAITING) {
                tables.put(
                        tables.runs,
                        id,
                        run.moved(RunState.PLANNED, readyAt, Optional.empty(), run.attempts(), run.attempt()));
                tables.waitsNoMore(id, readyAt);
            }
        }
        notes.letGo(runs);
    }

    // Sessions.

    @Override
    public SessionSteps sessions() {
        return new MemorySessions(tables, clock);
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
    public NamedLeaseSteps leases() {
        return new MemoryNamedLeases(tables);
    }

    @Override
    public AccessSteps access() {
        return new MemoryAccess(tables);
    }

    @Override
    public FeedSteps feed() {
        return new MemoryFeed(tables, clock);
    }

    @Override
    public NoticeSteps notices() {
        return new MemoryNotices(tables, clock);
    }

    /** Feeds what was changed, if somebody listens, and notes what may have to be told; the last step before the commit. */
    void finish() {
        if (!notables.isEmpty()) {
            new MemoryNotices(tables, clock).note(notables);
        }
        MemoryFeed feed = new MemoryFeed(tables, clock);
        if (!notes.isEmpty() && feed.isListened()) {
            feed.add(notes.all());
        }
    }

    // Sweeping.

    @Override
    public SealSteps seals() {
        return new MemorySeals(tables, line -> MemoryHistory.withoutOutput(tables, line));
    }

    @Override
    public RollUpSteps rollUp() {
        return new MemoryRollUp(tables);
    }

    @Override
    public RetentionSteps retention() {
        return new MemoryRetention(tables, clock);
    }

    @Override
    public List<JobRow> crowdedUnawares(int limit) {
        return tables.runs.jobs().stream()
                .sorted()
                .map(job -> Tables.row(tables.jobs, job))
                .filter(stored -> !stored.row().runs().crowded())
                .filter(stored -> tables.runs
                        .ofJob(stored.row().id())
                        .anyMatch(run -> !stored.row().runs().newest().equals(Optional.of(run.id()))))
                .map(tables::counted)
                .limit(limit)
                .toList();
    }

    @Override
    public List<Long> jobsWithRoomAndWaiting(int limit) {
        return tables.runs.jobs().stream()
                .sorted()
                .map(job -> tables.counted(Tables.row(tables.jobs, job)))
                .filter(row -> row.waiting() > 0 && !row.paused() && row.used() < row.cap())
                .map(JobRow::id)
                .limit(limit)
                .toList();
    }
}
